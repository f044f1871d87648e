import { Box } from '@mui/material';
import type { ExportDone, RasterCheck } from '@rootmap/core/contract';
import { number } from '../parts/format.js';
import { SkippedList } from '../parts/job-actions.js';
import { PathText } from '../parts/path-text.js';
import { Losses } from './losses.js';

/** What was read and written of an export, and what it could not hold. */
export const ExportReceipt = ({ done, shown }: { done: ExportDone; shown: (path: string) => string }) => (
  <Box role="status" sx={{ fontSize: 13 }}>
    <PathText path={shown(done.path)} most={80} />: {number(done.read)} {done.unit} read, {number(done.written)} written
    {done.skipped.length === 0 ? ', none left out.' : `, ${number(done.read - done.written)} left out:`}
    <SkippedList skipped={done.skipped} />
    {done.check && <Checked check={done.check} />}
    <Losses losses={done.losses} />
  </Box>
);

/** How many pixels were read back, and who read the source. */
const Checked = ({ check: { pixels, by } }: { check: RasterCheck }) => (
  <div>
    Read back by another reader: {number(pixels)} pixels are as{' '}
    {by === 'another' ? 'another reader finds them in the source' : 'they were read for it; no other reader reads the source'}.
  </div>
);
