import { Box, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import type { ReactNode } from 'react';
import type { MapView } from '@rootmap/core/contract';
import { api, type PathsAnswer } from '../api/client.js';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { FormDialog } from '../parts/form-dialog.js';
import { keys } from '../api/queries.js';

type Fixes = (kept: { readonly map: string; readonly layer: string }) => ReactNode;

interface Props {
  readonly projectKey: string;
  readonly map: MapView | null;
  readonly form: 'relative' | 'absolute';
  /** What can be done about a reference that stays as it is. */
  readonly fixes: Fixes;
  readonly onClose: () => void;
}

/** Shows every reference that would be rewritten, and what cannot be and why; then one button. */
export function StoredFormDialog({ projectKey, map, form, fixes, onClose }: Props) {
  const { enqueueSnackbar } = useSnackbar();
  const request = { store: form, map: map?.path ?? null } as const;
  const preview = useQuery({
    queryKey: keys.of(projectKey, 'paths', request),
    queryFn: () => api.paths(projectKey, { ...request, apply: false }),
    gcTime: 0,
  });
  const apply = useMutation({
    mutationFn: () => api.paths(projectKey, { ...request, apply: true }),
    onSuccess: ({ applied }) => {
      enqueueSnackbar(`${many(applied?.applied ?? 0, 'reference')} rewritten. The journal takes it back.`);
      onClose();
    },
  });
  const adverb = form === 'relative' ? 'relatively' : 'absolutely';
  return (
    <FormDialog
      title={`Store ${map ? `the references of ${map.title}` : 'all references'} ${adverb}`}
      confirm={`Rewrite ${many(preview.data?.changes.length ?? 0, 'reference')}`}
      disabled={!preview.data?.changes.length || apply.isPending}
      maxWidth="md"
      onConfirm={() => apply.mutate()}
      onClose={onClose}
    >
      <Typography color="text.secondary" sx={{ mb: 1.5 }}>
        {form === 'relative'
          ? 'A relative reference starts at the map file, so the whole root can move and the layers whose data is in it stay sound.'
          : 'An absolute reference names one drive or machine; it survives when the map file alone moves.'}
      </Typography>
      {preview.isError ? (
        <ErrorState error={preview.error} />
      ) : !preview.data ? (
        <Waiting what="Working out what would change…" />
      ) : (
        <Planned plan={preview.data} adverb={adverb} fixes={fixes} />
      )}
      {apply.isError && <ErrorState error={apply.error} />}
    </FormDialog>
  );
}

interface PlannedProps {
  readonly plan: Pick<PathsAnswer, 'changes' | 'kept'>;
  readonly adverb: string;
  readonly fixes: Fixes;
}

/** Each reference before and after, and those that stay as they are. */
const Planned = ({ plan, adverb, fixes }: PlannedProps) => (
  <>
    {plan.changes.length === 0 && <Typography>Nothing to rewrite: every reference that can be is stored {adverb} already.</Typography>}
    {plan.changes.map((c) => (
      <Box key={`${c.map} ${c.layer}`} sx={{ py: 0.75, borderTop: '1px solid var(--rule)' }}>
        <Typography sx={{ fontWeight: 650 }}>{c.title}</Typography>
        <div>
          − <PathText path={c.before} most={90} colour="var(--plum)" />
        </div>
        <div>
          + <PathText path={c.after} most={90} colour="var(--spruce)" />
        </div>
      </Box>
    ))}
    {plan.kept.length > 0 && (
      <Typography variant="h3" sx={{ mt: 2 }}>
        Stays as it is
      </Typography>
    )}
    {plan.kept.map((k) => (
      <Box key={`${k.map} ${k.layer}`} sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', gap: 1, minHeight: 32 }}>
        <Typography variant="body2">
          {k.title}: {k.why}
        </Typography>
        {fixes(k)}
      </Box>
    ))}
  </>
);
