import { Box, Button, LinearProgress, Stack, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { api, ServerProblem } from '../api/client.js';
import { bytesSoFar } from '../frame/running-work.js';
import { bytes } from '../parts/format.js';
import { useStartedJob } from '../parts/job-actions.js';
import { ErrorState } from '../parts/states.js';
import { NO_SIGN_IN, signInOf, SignInFields } from '../services/sign-in-fields.js';

interface Props {
  readonly projectKey: string;
  readonly address: string;
  readonly onAddress: (address: string) => void;
  readonly onArrived: (id: string) => void;
}

/** A publisher's address: what stands there is fetched, and then looked at like a file that was dropped. */
export function FetchForm({ projectKey, address, onAddress, onArrived }: Props) {
  const [who, setWho] = useState(NO_SIGN_IN);
  const [asksWho, setAsksWho] = useState(false);
  const fetch = useMutation({ mutationFn: () => api.fetchAddress(projectKey, { address, signIn: signInOf(who) }) });
  const { job, isRunning, result } = useStartedJob(fetch.data);
  const told = useRef<string | null>(null);
  useEffect(() => {
    if (!result || told.current === result.arrival) return;
    told.current = result.arrival;
    onArrived(result.arrival);
  }, [result, onArrived]);
  const wantsSignIn = /^(sign-in|wrong-sign-in)$/.test((fetch.error instanceof ServerProblem && fetch.error.details.trouble) || '');
  const failed = job?.state === 'failed' ? job.message : null;
  return (
    <Box component="section" aria-label="By its address" sx={{ mb: 1.5 }}>
      <Stack
        direction="row"
        spacing={1}
        component="form"
        onSubmit={(e) => {
          e.preventDefault();
          if (address.trim() !== '' && !isRunning) fetch.mutate();
        }}
      >
        <TextField
          fullWidth
          label="Or paste the address of a file"
          placeholder="https://publisher.example/data.zip"
          value={address}
          onChange={(e) => onAddress(e.target.value)}
          slotProps={{ htmlInput: { className: 'mono', spellCheck: false } }}
        />
        <Button
          type="submit"
          variant="outlined"
          disabled={address.trim() === '' || isRunning || fetch.isPending}
          sx={{ whiteSpace: 'nowrap' }}
        >
          Fetch it
        </Button>
        {isRunning && job && <Button onClick={() => void api.cancelJob(job.id)}>Stop</Button>}
        <Button onClick={() => setAsksWho((now) => !now)} aria-expanded={asksWho} sx={{ whiteSpace: 'nowrap' }}>
          Sign in…
        </Button>
      </Stack>
      {(asksWho || wantsSignIn) && <SignInFields value={who} onChange={setWho} />}
      {isRunning && job && (
        <Box sx={{ mt: 1 }}>
          <Typography variant="body2" role="status">
            {job.of > 0 ? bytesSoFar(job) : `${bytes(job.done)}; the server does not say how much it is`}
          </Typography>
          <LinearProgress
            variant={job.of > 0 ? 'determinate' : 'indeterminate'}
            value={job.of > 0 ? Math.min(100, (100 * job.done) / job.of) : 0}
            aria-label="How much came"
          />
        </Box>
      )}
      {result && result.resumedAt > 0 && (
        <Typography variant="body2">It went on from {bytes(result.resumedAt)} that came in an earlier try.</Typography>
      )}
      {fetch.isError && <ErrorState error={fetch.error} />}
      {failed !== null && (
        <Typography role="alert" color="error" sx={{ mt: 1 }}>
          {failed}
        </Typography>
      )}
    </Box>
  );
}
