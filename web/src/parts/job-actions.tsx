import { Box, Button, DialogActions } from '@mui/material';
import type { ReactNode } from 'react';
import type { JobView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useJobs } from '../api/queries.js';

/** The job that a dialog started, as the events tell it. */
export function useStartedJob(started: JobView | undefined) {
  const job = useJobs().data?.find((j) => j.id === started?.id) ?? started ?? null;
  return { job, isRunning: job?.state === 'running', isDone: job?.state === 'done' };
}

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
