import { Box } from '@mui/material';
import type { ExportDone } from '@rootmap/core/contract';
import { number } from '../parts/format.js';
import { SkippedList } from '../parts/job-actions.js';
import { PathText } from '../parts/path-text.js';
import { Losses } from './losses.js';

/** What was read and written of an export, and what it could not hold. */
export const ExportReceipt = ({ done, shown }: { done: ExportDone; shown: (path: string) => string }) => (
  <Box role="status" sx={{ fontSize: 13 }}>
    <PathText path={shown(done.path)} most={80} />: {number(done.read)} read, {number(done.written)} written
    {done.skipped.length === 0 ? ', none left out.' : `, ${number(done.read - done.written)} left out:`}
    <SkippedList skipped={done.skipped} />
    <Losses losses={done.losses} />
  </Box>
);
