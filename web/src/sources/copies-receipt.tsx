import { Box } from '@mui/material';
import type { CopiesDone } from '@rootmap/core/contract';
import { number } from '../parts/format.js';
import { SkippedList } from '../parts/job-actions.js';
import { LossLine } from '../parts/loss-line.js';

/** What was read and what was written, so that nothing is lost unseen. */
export const CopiesReceipt = ({ done }: { done: CopiesDone }) => (
  <Box role="status">
    {done.copies.map((c) => (
      <Box key={c.name} sx={{ fontSize: 13, mb: 1 }}>
        <span className="mono">{c.name}</span>: {number(c.read)} read, {number(c.written)} written
        {c.skipped.length === 0 ? ', none left out.' : `, ${number(c.read - c.written)} left out:`}
        <SkippedList skipped={c.skipped} />
        <LossLine losses={c.losses} />
      </Box>
    ))}
  </Box>
);
