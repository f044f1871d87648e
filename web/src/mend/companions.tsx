import { Box, Button, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { useState } from 'react';
import type { EditRequest, MendLayerView } from '@rootmap/core/contract';
import { PathText } from '../parts/path-text.js';
import { Section } from './section.js';

interface Props {
  readonly layer: MendLayerView;
  readonly busy: boolean;
  readonly onEdit: (request: EditRequest) => void;
}

/** What brings back a companion that a shapefile lost: an index made anew, or a table that stands elsewhere. */
export function Companions({ layer: { indexLost, tableLost }, busy, onEdit }: Props) {
  const [isSpatial, setSpatial] = useState(false);
  return (
    <>
      {indexLost && (
        <Box>
          <Button variant="outlined" disabled={busy} onClick={() => onEdit({ kind: 'rebuild-index', dataset: indexLost, isSpatial })}>
            Make the index anew
          </Button>
          <FormControlLabel
            sx={{ ml: 1 }}
            control={<Checkbox size="small" checked={isSpatial} onChange={(e) => setSpatial(e.target.checked)} />}
            label="and a spatial index (.qix), where there is none"
          />
        </Box>
      )}
      {tableLost && tableLost.tables.length > 0 && (
        <Section title="Tables that fit it">
          {tableLost.tables.map((t) => (
            <Box key={t.shownPath} component="article" aria-label={t.shownPath} sx={{ mb: 1 }}>
              <PathText path={t.shownPath} most={52} />
              <Typography variant="body2" color="text.secondary">
                {t.evidence.join(' ')}
              </Typography>
              <Button size="small" disabled={busy} onClick={() => onEdit({ kind: 'bring-table', dataset: tableLost.dataset, table: t.at })}>
                Bring this table back beside it
              </Button>
            </Box>
          ))}
        </Section>
      )}
    </>
  );
}
