import { Button, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ServiceView, SignInRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { FormDialog } from '../parts/form-dialog.js';
import { ErrorState } from '../parts/states.js';
import { signInOf, SignInFields, type SignInTyped } from './sign-in-fields.js';

/** Who asks a server: given, changed or forgotten. What is known is never shown again. */
export function SignInDialog({ projectKey, service, onClose }: { projectKey: string; service: ServiceView; onClose: () => void }) {
  const [typed, setTyped] = useState<SignInTyped>({ way: 'password', name: '', secret: '' });
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async (signIn: SignInRequest | null) => {
      await api.serviceSignIn(projectKey, { url: service.url, signIn });
      await api.askServices(projectKey, [service.url]);
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: keys.project(projectKey) });
      onClose();
    },
  });
  const signIn = signInOf(typed);
  return (
    <FormDialog
      title={`Who asks ${service.name ?? service.url}`}
      confirm={save.isPending ? 'Asking…' : 'Sign in and ask it'}
      disabled={signIn === null || save.isPending}
      maxWidth="sm"
      onConfirm={() => save.mutate(signIn)}
      onClose={onClose}
    >
      {service.signIn && (
        <Typography sx={{ mb: 1 }}>
          {service.signIn === 'password' ? 'A name and password are kept, sealed.' : 'A key is kept, sealed.'}{' '}
          <Button size="small" onClick={() => save.mutate(null)} disabled={save.isPending}>
            Forget it
          </Button>
        </Typography>
      )}
      <SignInFields value={typed} onChange={setTyped} />
      {save.isError && <ErrorState error={save.error} />}
    </FormDialog>
  );
}
