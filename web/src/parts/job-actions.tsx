import { Box, Button, DialogActions } from '@mui/material';
import type { ReactNode } from 'react';
import type { JobKind, JobResults, JobView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useJobs } from '../api/queries.js';

/** The job that a dialog started, as the events tell it. */
export function useStartedJob<K extends JobKind>(
  started: JobView<K> | undefined,
): {
  readonly job: JobView<K> | null;
  readonly isRunning: boolean;
  readonly isDone: boolean;
  /** What came of it, once it is done. */
  readonly result: JobResults[K] | null;
} {
  // An id has one kind, whoever tells of it.
  const job = ((useJobs().data?.find((j) => j.id === started?.id) as JobView<K> | undefined) ?? started) || null;
  return { job, isRunning: job?.state === 'running', isDone: job?.state === 'done', result: resultOf(job) };
}

const resultOf = <K extends JobKind>(job: JobView<K> | null): JobResults[K] | null => (job === null ? null : job.result);

interface Props {
  readonly job: JobView | null;
  readonly isRunning: boolean;
  readonly isDone: boolean;
  readonly onClose: () => void;
  /** The button that starts it. */
  readonly children: ReactNode;
}

/** The foot of a dialog that starts a job: start it, stop it while it runs, close when it is done. */
export const JobActions = ({ job, isRunning, isDone, onClose, children }: Props) => (
  <DialogActions sx={{ px: 3, pb: 2 }}>
    {isRunning && job ? (
      <Button onClick={() => void api.cancelJob(job.id)}>Stop</Button>
    ) : (
      <Button onClick={onClose}>{isDone ? 'Close' : 'Cancel'}</Button>
    )}
    {!isDone && children}
  </DialogActions>
);

/** The first of the records that were left out, each with its reason. */
export const SkippedList = ({ skipped }: { skipped: readonly { readonly record: number; readonly why: string }[] }) =>
  skipped.slice(0, 5).map((s) => (
    <Box key={s.record} sx={{ color: 'var(--plum)' }}>
      record {s.record}: {s.why}
    </Box>
  ));
