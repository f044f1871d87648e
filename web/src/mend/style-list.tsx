import { Box, Button, Typography } from '@mui/material';
import type { MendStyleView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';

/** Styles with a proposal at least likely. */
const mendable = (styles: readonly MendStyleView[]): readonly MendStyleView[] => styles.filter((s) => s.after !== null);

/** Styles in files of their own that are not where the map says: from where, to where, and why that is believed. */
export function StyleList({
  styles,
  busy,
  onMend,
}: {
  styles: readonly MendStyleView[];
  busy: boolean;
  onMend: (styles: readonly MendStyleView[]) => void;
}) {
  const able = mendable(styles);
  return (
    <Box component="section" aria-label="Style files adrift" sx={{ px: 1.75, py: 1, borderTop: '1px solid var(--rule)' }}>
      <Typography variant="h3" sx={{ mb: 0.5 }}>
        {many(styles.length, 'style file')} adrift
      </Typography>
      <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
        These layers are drawn plainly until their style is found.
      </Typography>
      {styles.map((s) => (
        <Box key={s.key} sx={{ fontSize: 12.5, mb: 1 }}>
          <Box>
            {s.title}{' '}
            <Box component="span" sx={{ color: 'text.secondary' }}>
              in {s.mapTitle}, {s.verdict === 'none' ? 'no trace' : s.verdict}
            </Box>
          </Box>
          <PathText path={s.before} most={44} />
          {s.after !== null && (
            <Box>
              → <PathText path={s.after} most={42} />
            </Box>
          )}
          {s.evidence.map((e) => (
            <Box key={e} sx={{ color: 'text.secondary' }}>
              {e}
            </Box>
          ))}
        </Box>
      ))}
      {able.length > 0 && (
        <Button variant="outlined" size="small" disabled={busy} onClick={() => onMend(able)}>
          Mend {many(able.length, 'style')}
        </Button>
      )}
    </Box>
  );
}
