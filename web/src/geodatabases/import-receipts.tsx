import { Box, Button, Typography } from '@mui/material';
import { useMemo, useState } from 'react';
import type { EditRequest, ImportDone, ImportReceipt, ProjectView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { many, number } from '../parts/format.js';
import { SkippedList } from '../parts/job-actions.js';
import { LossLine } from '../parts/loss-line.js';

/** Who read it back, how much of it, and what that found. */
function equality({ isEqual, compared, extent, losses, unit }: ImportReceipt): string {
  const differ = 'Read back, values differ: look at it before you rely on it.';
  if (!isEqual) return differ;
  const but = losses.length > 0 ? ', but for what is named below' : '';
  if (compared === null) return `Read back, every value${extent === null ? '' : ' and shape'} is the same${but}.`;
  const by = compared.isByOthers ? 'by another reader' : 'by the reader that read it first, since no other reads such files alike';
  const all =
    compared.pixels === compared.of ? `all ${unit}` : `${number(compared.pixels)} of ${number(compared.of)} ${unit}, spread over it,`;
  return `Read back ${by}: ${all} are the same${but}.`;
}

/** What was read and written of each; then the maps can use the tables, by one change. */
/** `isFromServer`: no layer draws on what was brought in, since it came from elsewhere a moment ago. */
export function ImportReceipts({
  project,
  done,
  isFromServer = false,
}: {
  project: ProjectView;
  done: ImportDone;
  isFromServer?: boolean;
}) {
  const [isSwapping, setSwapping] = useState(false);
  const [isSwapped, setSwapped] = useState(false);
  const edit = useMemo(
    (): EditRequest => ({
      kind: 'use-tables',
      pairs: done.receipts.filter((r) => r.part === null).map((r) => ({ from: r.dataset, to: `${done.geodatabase}#${r.table}` })),
    }),
    [done],
  );
  return (
    <Box role="status">
      {done.receipts.map((r) => (
        <Box key={r.table} sx={{ fontSize: 13, mb: 1 }}>
          <span className="mono">{r.table}</span>: {number(r.read)} {r.unit} read, {number(r.written)} written
          {r.skipped.length === 0 ? ', none left out' : `, ${number(r.read - r.written)} left out`}
          {r.nulls > 0 ? `, ${number(r.nulls)} without a shape` : ''}.{' '}
          {r.isExtentEqual === null ? '' : r.isExtentEqual ? 'The extent is that of the source. ' : 'The source states another extent. '}
          {equality(r)}
          <LossLine losses={r.losses} />
          <SkippedList skipped={r.skipped} />
          {r.invalid > 0 && (
            <Box sx={{ borderLeft: '3px solid var(--ochre)', pl: 1, mt: 0.25 }}>
              {many(r.invalid, 'shape')} {r.invalid === 1 ? 'breaks' : 'break'} the rules
              {r.fixed > 0 ? `, ${number(r.fixed)} made valid` : ''}:
              <SkippedList skipped={r.firstInvalid} />
            </Box>
          )}
        </Box>
      ))}
      {done.failed.map((f) => (
        <Box key={`${f.dataset} ${f.part}`} sx={{ fontSize: 13, mb: 1, borderLeft: '3px solid var(--ochre)', pl: 1 }}>
          <span className="mono">{f.dataset.slice(f.dataset.lastIndexOf('/') + 1)}</span>: nothing of it was brought in, since {f.why}.
        </Box>
      ))}
      {!isSwapped && !isFromServer && done.receipts.length > 0 && (
        <Button variant="outlined" onClick={() => setSwapping(true)}>
          Let the maps use these tables
        </Button>
      )}
      {isSwapping && (
        <EditDialog
          projectKey={project.key}
          title="Let the maps use these tables"
          edit={edit}
          button="Let them"
          onClose={() => setSwapping(false)}
          onDone={() => setSwapped(true)}
        >
          <Typography sx={{ mb: 1 }}>Only where each layer finds its data is rewritten. The originals stay where they are.</Typography>
        </EditDialog>
      )}
    </Box>
  );
}
