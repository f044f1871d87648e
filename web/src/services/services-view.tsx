import { Box, Button, Link, Stack, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ProjectView, ServicesView as Services, ServiceView } from '@rootmap/core/contract';
import { Link as RouterLink } from 'react-router';
import { api } from '../api/client.js';
import { keys, useServices } from '../api/queries.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { sideBySide } from '../parts/side-by-side.js';
import { bytes, many } from '../parts/format.js';
import { EmptyState, ErrorState, Waiting } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { LinkServiceDialog } from './link-service-dialog.js';
import { OfferView } from './offer-view.js';
import { ServiceCard } from './service-card.js';
import { SignInDialog } from './sign-in-dialog.js';

type Open =
  | { readonly kind: 'link'; readonly address: string }
  | { readonly kind: 'unlink'; readonly name: string }
  | { readonly kind: 'follow'; readonly from: string; readonly to: string }
  | { readonly kind: 'sign-in'; readonly service: ServiceView };

/** Servers that others keep current: linked by name, asked, and looked through. */
export function ServicesView({ project }: { project: ProjectView }) {
  const services = useServices(project.key);
  const [search, set] = useUrlState();
  const [open, setOpen] = useState<Open | null>(null);
  const client = useQueryClient();
  const ask = useMutation({
    mutationFn: (urls: readonly string[]) => api.askServices(project.key, urls),
    onSuccess: (view: Services) => client.setQueryData(keys.of(project.key, 'services'), view),
  });
  if (services.isError) return <ErrorState error={services.error} onRetry={() => void services.refetch()} />;
  if (!services.data) return <Waiting what="Looking which services are linked…" />;
  const all = services.data.services;
  const chosen = all.find((s) => s.url === search.get('service') && s.name !== null) ?? null;
  const link = (
    <Button variant="contained" onClick={() => setOpen({ kind: 'link', address: '' })} disabled={project.id === null}>
      Link a service
    </Button>
  );
  const dialogs = <Dialogs project={project} open={open} onOpen={setOpen} onLinked={(url) => set({ service: url }, { step: true })} />;
  if (all.length === 0)
    return (
      <>
        <EmptyState title="No service is linked" action={link}>
          Much data is not copied but drawn from a server that others keep current. Paste its address, look through what it offers, and
          bring one thing into a map.
        </EmptyState>
        {dialogs}
      </>
    );
  const linked = all.filter((s) => s.name !== null);
  return (
    <Box sx={{ ...sideBySide('340px minmax(0, 1fr)'), gap: 1.5 }}>
      <Box sx={{ overflow: 'auto', minHeight: 0 }}>
        <Stack direction="row" spacing={1} sx={{ mb: 1.5 }}>
          {link}
          {linked.length > 0 && (
            <Button variant="outlined" disabled={ask.isPending} onClick={() => ask.mutate([])}>
              {ask.isPending ? 'Asking…' : 'Ask all'}
            </Button>
          )}
        </Stack>
        {ask.isError && <ErrorState error={ask.error} />}
        <Stack spacing={1.5}>
          {all.map((s) => (
            <ServiceCard
              key={s.url}
              service={s}
              isChosen={s.url === chosen?.url}
              isAsking={ask.isPending && (ask.variables.length === 0 || ask.variables.includes(s.url))}
              onOpen={() => set({ service: s.url }, { step: true })}
              onAsk={() => ask.mutate([s.url])}
              onLink={() => setOpen({ kind: 'link', address: s.url })}
              onUnlink={() => s.name !== null && setOpen({ kind: 'unlink', name: s.name })}
              onSignIn={() => setOpen({ kind: 'sign-in', service: s })}
              onFollow={() => s.movedTo !== null && setOpen({ kind: 'follow', from: s.url, to: s.movedTo })}
            />
          ))}
        </Stack>
        <Kept services={services.data} />
      </Box>
      {chosen ? (
        <OfferView key={chosen.url} project={project} service={chosen} onSignIn={() => setOpen({ kind: 'sign-in', service: chosen })} />
      ) : (
        <Typography color="text.secondary" sx={{ p: 4 }}>
          {linked.length > 0
            ? 'Choose a service to look through what it offers.'
            : `${many(all.length, 'server')} is drawn by layers and was never linked: link it, and it can be asked.`}
        </Typography>
      )}
      {dialogs}
    </Box>
  );
}

/** How much of answers is kept, and whom of one's own network projects here may ask. */
const Kept = ({ services }: { services: Services }) => (
  <Typography variant="body2" color="text.secondary" sx={{ mt: 1.5 }}>
    {bytes(services.kept.bytes)} of answers are kept, of at most {bytes(services.kept.limitBytes)}.
    {services.hosts.length > 0 && (
      <>
        {' '}
        Hosts of your own network that projects in {services.place} may ask: {services.hosts.join(', ')}.{' '}
        <Link component={RouterLink} to="/places">
          Places
        </Link>{' '}
        sets them.
      </>
    )}
  </Typography>
);

interface DialogsProps {
  readonly project: ProjectView;
  readonly open: Open | null;
  readonly onOpen: (open: Open | null) => void;
  readonly onLinked: (url: string) => void;
}

function Dialogs({ project, open, onOpen, onLinked }: DialogsProps) {
  const close = (): void => onOpen(null);
  switch (open?.kind) {
    case 'link':
      return <LinkServiceDialog project={project} address={open.address} onLinked={onLinked} onClose={close} />;
    case 'unlink':
      return (
        <EditDialog
          projectKey={project.key}
          title={`Unlink ${open.name}`}
          edit={{ kind: 'unlink-service', name: open.name }}
          button={`Unlink ${open.name}`}
          onClose={close}
        >
          <Typography sx={{ mb: 1 }}>
            Layers that draw on it stay in their maps; they are not drawn any more, since it is not asked.
          </Typography>
        </EditDialog>
      );
    case 'follow':
      return (
        <EditDialog
          projectKey={project.key}
          title="Follow a server that moved"
          edit={{ kind: 'move-service', from: open.from, to: open.to }}
          button="Follow it there"
          onClose={close}
          onDone={() => onLinked(open.to)}
        >
          <Typography sx={{ mb: 1 }}>
            It says that it stands at <span className="mono">{open.to}</span> now. The link and every layer that draws on it follow.
          </Typography>
        </EditDialog>
      );
    case 'sign-in':
      return <SignInDialog projectKey={project.key} service={open.service} onClose={close} />;
    case undefined:
      return null;
  }
}
