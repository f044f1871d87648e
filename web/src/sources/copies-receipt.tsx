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
        <span className="mono">{c.name}</span>: {c.unit === 'pixels' ? pixelsDone(c) : recordsDone(c)}
        <SkippedList skipped={c.skipped} />
        <LossLine losses={c.losses} />
      </Box>
    ))}
  </Box>
);

const recordsDone = ({ read, written, skipped }: Copy): string =>
  `${number(read)} read, ${number(written)} written${skipped.length === 0 ? ', none left out.' : `, ${number(read - written)} left out:`}`;

const pixelsDone = ({ read, written }: Copy): string =>
  `${number(read)} pixels, ${number(written)} of them with a value. Another reader finds each as it was computed.`;

type Copy = CopiesDone['copies'][number];
