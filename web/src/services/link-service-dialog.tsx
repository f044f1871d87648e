import { Box, Button, Stack, TextField, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { EditRequest, FoundServiceView, ProjectView } from '@rootmap/core/contract';
import { api, ServerProblem } from '../api/client.js';
import { keys } from '../api/queries.js';
import { useApplyEdit } from '../folders/use-edit.js';
import { FormDialog } from '../parts/form-dialog.js';
import { many } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { AllowHost } from './allow-host.js';
import { KIND_WORD } from './offer-words.js';
import { NO_SIGN_IN, signInOf, SignInFields } from './sign-in-fields.js';

interface Props {
  readonly project: ProjectView;
  readonly address?: string;
  readonly onLinked: (url: string) => void;
  readonly onClose: () => void;
}

/** An address is pasted, tried, and linked by a name. */
export function LinkServiceDialog({ project, address: first = '', onLinked, onClose }: Props) {
  const [address, setAddress] = useState(first);
  const [who, setWho] = useState(NO_SIGN_IN);
  const [own, setOwn] = useState<string | null>(null);
  const client = useQueryClient();
  const find = useMutation({ mutationFn: () => api.findService(project.key, { address, signIn: signInOf(who) }) });
  const found = find.data ?? null;
  const name = own ?? (found ? freeName(found, project) : '');
  const link = useApplyEdit(project.key, () => {
    if (found) onLinked(found.url);
    onClose();
  });
  const edit: EditRequest | null =
    found && name.trim() !== '' ? { kind: 'link-service', name: name.trim(), service: found.kind, url: found.url } : null;
  const change = (to: string): void => {
    setAddress(to);
    find.reset();
    setOwn(null);
  };
  const problem = find.error instanceof ServerProblem ? find.error.details : null;
  return (
    <FormDialog
      title="Link a service"
      confirm={found ? `Link it as ${name}` : find.isPending ? 'Asking…' : 'Try it'}
      disabled={found ? edit === null || link.isPending : address.trim() === '' || find.isPending}
      maxWidth="md"
      onConfirm={() => (edit ? link.mutate(edit) : find.mutate())}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        label="Address, whole or in part"
        placeholder="https://maps.example/wms"
        value={address}
        onChange={(e) => change(e.target.value)}
        slotProps={{ htmlInput: { className: 'mono', spellCheck: false } }}
        helperText="A map server (WMS), records (OGC API), or tiles with {z}, {x} and {y}. Which of them it is, is found out."
        sx={{ mt: 1 }}
      />
      <SignInFields
        value={who}
        onChange={(value) => {
          setWho(value);
          find.reset();
        }}
      />
      <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
        Passwords and keys are kept sealed in this program’s own data. They stand in no project, map, bundle or journal.
      </Typography>
      {find.isError && <ErrorState error={find.error} />}
      {problem?.trouble === 'sign-in' && who.way === 'none' && (
        <Button variant="outlined" onClick={() => setWho({ way: 'password', name: '', secret: '' })} sx={{ ml: 2 }}>
          Sign in
        </Button>
      )}
      {problem?.trouble === 'private' && problem.host && (
        <AllowHost
          projectKey={project.key}
          host={problem.host}
          onAllowed={() => {
            void client.invalidateQueries({ queryKey: keys.of(project.key, 'services') });
            find.mutate();
          }}
        />
      )}
      {found && <Found found={found} name={name} onName={setOwn} />}
      {link.isError && <ErrorState error={link.error} />}
    </FormDialog>
  );
}

function Found({ found, name, onName }: { found: FoundServiceView; name: string; onName: (name: string) => void }) {
  return (
    <Box role="status" sx={{ mt: 2, p: 1.5, bgcolor: 'var(--spruce-wash)', borderRadius: 1 }}>
      <Typography sx={{ fontWeight: 650 }}>{found.title}</Typography>
      <Typography variant="body2">
        It answers: {KIND_WORD[found.kind]}, {many(found.items, 'thing')} offered{found.more > 0 ? ` and ${found.more} more` : ''}
        {found.publisher ? `, by ${found.publisher}` : ''}
        {found.isSignedIn ? '. You are signed in' : ''}.
      </Typography>
      {found.description && <Typography variant="body2">{found.description}</Typography>}
      <Stack direction="row" sx={{ mt: 1.5 }}>
        <TextField
          label="Name of the link"
          value={name}
          onChange={(e) => onName(e.target.value)}
          sx={{ minWidth: 300, bgcolor: 'var(--sheet)' }}
        />
      </Stack>
    </Box>
  );
}

/** The server's own title, short enough for a name; numbered where one is linked under it. */
function freeName(found: FoundServiceView, project: ProjectView): string {
  const short = found.title.length > 60 ? `${found.title.slice(0, 60).replace(/\s+\S*$/, '')}` : found.title;
  const isTaken = (name: string): boolean => project.services.some((s) => s.name === name);
  for (let n = 1; ; n++) {
    const name = n === 1 ? short : `${short} ${n}`;
    if (!isTaken(name)) return name;
  }
}
