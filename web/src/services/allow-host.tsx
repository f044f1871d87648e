import { Button } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { api } from '../api/client.js';
import { ErrorState } from '../parts/states.js';

/** A host of one's own network is asked only when somebody says that it is meant. */
export function AllowHost({ projectKey, host, onAllowed }: { projectKey: string; host: string; onAllowed: () => void }) {
  const allow = useMutation({ mutationFn: () => api.allowHost(projectKey, { host, allowed: true }), onSuccess: onAllowed });
  return (
    <>
      <Button variant="outlined" onClick={() => allow.mutate()} disabled={allow.isPending} sx={{ ml: 2 }}>
        Allow {host}
      </Button>
      {allow.isError && <ErrorState error={allow.error} />}
    </>
  );
}
