import { Box, LinearProgress } from '@mui/material';
import type { DraftLayer } from '@rootmap/core/contract';

/** The layers of a map whose outlines are being drawn: named at once, ready to be worked with a moment later. */
export const OpeningStack = ({ layers }: { layers: readonly DraftLayer[] }) => (
  <>
    <LinearProgress aria-label="Reading the layers" sx={{ height: 2 }} />
    <Box component="ol" aria-label="Layer stack" sx={{ listStyle: 'none', m: 0, p: 0, fontWeight: 650 }}>
      {layers.map((l) => (
        <li key={l.id} style={{ padding: '8px 36px', minHeight: 50, boxSizing: 'border-box', borderBottom: '1px solid var(--rule)' }}>
          {l.title || 'no title'}
        </li>
      ))}
    </Box>
  </>
);
