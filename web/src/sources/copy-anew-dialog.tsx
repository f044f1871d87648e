import { Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useEffect } from 'react';
import { api } from '../api/client.js';
import { JobRow } from '../frame/running-work.js';
import { FormDialog } from '../parts/form-dialog.js';
import { number } from '../parts/format.js';
import { JobActions, useStartedJob } from '../parts/job-actions.js';
import { ErrorState } from '../parts/states.js';
import { Compared } from './compared-dataset.js';

/** A collection that has changed is copied once more, held against its table, and takes its place if that is wanted. */
export function CopyAnewDialog({ projectKey, dataset, onClose }: { projectKey: string; dataset: string; onClose: () => void }) {
  const copy = useMutation({ mutationFn: (takes: boolean) => api.copyAnew(projectKey, { dataset, takes }) });
  const { mutate } = copy;
  useEffect(() => mutate(false), [mutate]);
  const { job, isRunning, result } = useStartedJob(copy.data);
  const isTaken = result !== null && result.import !== null;
  return (
    <FormDialog
      title="Copy it anew"
      confirm="Let it take the place of the table"
      disabled={isRunning || copy.isPending || result === null}
      maxWidth="sm"
      onConfirm={() => mutate(true)}
      onClose={onClose}
      foot={(button) => (
        <JobActions job={job} isRunning={isRunning} isDone={isTaken} onClose={onClose}>
          {button}
        </JobActions>
      )}
    >
      {job && !result && <JobRow job={job} />}
      {copy.isError && <ErrorState error={copy.error} />}
      {result && (
        <Typography role="status" sx={{ mb: 1 }}>
          {number(result.came)} records came
          {result.told === null ? '; the server does not say how many it has.' : `, of ${number(result.told)} that the server told of.`}
        </Typography>
      )}
      {result?.newer && <Compared dataset={result.newer} />}
      {isTaken && (
        <Typography sx={{ mt: 1 }}>
          {result.import.receipts.every((r) => r.isEqual)
            ? 'It stands where the old table stood. Read back, every value and shape is the same as what came.'
            : 'It stands where the old table stood. Read back, not every value is as it came: look at it before you use it.'}{' '}
          One undo in the journal brings the old one back.
        </Typography>
      )}
    </FormDialog>
  );
}
