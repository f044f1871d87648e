import { Box, Button, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { useRef, useState, type ChangeEvent } from 'react';
import { explain, parseFolderPlan, writeFolderPlan } from '@rootmap/core';
import type { FolderPlanView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, usePlans } from '../api/queries.js';
import { ErrorState, sentenceOf, Waiting } from '../parts/states.js';
import { draftFault, draftOf, foldersOf, PlanEditor, type DraftFolder } from './plan-editor.js';
import { FormDialog } from '../parts/form-dialog.js';

export interface PlanDraft {
  readonly planId: string;
  readonly draft: readonly DraftFolder[];
}

/** What stands before anybody has chosen: the first plan, whole. */
export const firstOf = (plans: readonly FolderPlanView[]): PlanDraft => ({ planId: plans[0]!.id, draft: draftOf(plans[0]!.folders) });

/** Which plan, trimmed and changed as the job needs it; kept under a title of its own, or shared as a file. */
export function PlanChoice({ value, onChange }: { value: PlanDraft | null; onChange: (value: PlanDraft) => void }) {
  const plans = usePlans();
  if (plans.isError) return <ErrorState error={plans.error} onRetry={() => void plans.refetch()} />;
  if (!plans.data) return <Waiting what="Reading the plans…" />;
  const current = value ?? firstOf(plans.data);
  const plan = plans.data.find((p) => p.id === current.planId);
  const take = (p: Pick<FolderPlanView, 'id' | 'folders'>): void => onChange({ planId: p.id, draft: draftOf(p.folders) });
  return (
    <Stack spacing={1}>
      <TextField
        select
        label="Plan"
        value={plan ? plan.id : ''}
        onChange={(e) => take(plans.data.find((p) => p.id === e.target.value)!)}
        helperText={plan?.summary ?? 'Read from a file.'}
      >
        {plans.data.map((p) => (
          <MenuItem key={p.id} value={p.id}>
            {p.title}
            {p.isBuiltIn ? '' : ' (your own)'}
          </MenuItem>
        ))}
      </TextField>
      <PlanEditor draft={current.draft} onChange={(draft) => onChange({ ...current, draft })} />
      <PlanKeeping plan={plan ?? null} draft={current.draft} onTaken={take} />
    </Stack>
  );
}

interface KeepingProps {
  readonly plan: FolderPlanView | null;
  readonly draft: readonly DraftFolder[];
  readonly onTaken: (plan: Pick<FolderPlanView, 'id' | 'folders'>) => void;
}

function PlanKeeping({ plan, draft, onTaken }: KeepingProps) {
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const [naming, setNaming] = useState(false);
  const isUsable = draftFault(draft) === null && foldersOf(draft).length > 0;
  const share = (): void => {
    const title = plan?.title ?? 'Folder plan';
    const text = writeFolderPlan({ id: plan?.id ?? 'own', title, summary: plan?.summary ?? '', folders: foldersOf(draft) });
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
    link.download = `${title.toLowerCase().replace(/[^a-z0-9]+/g, '_')}.plan.json`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const read = async (e: ChangeEvent<HTMLInputElement>): Promise<void> => {
    const chosen = e.target.files?.[0];
    e.target.value = '';
    if (!chosen) return;
    const plan = parseFolderPlan(chosen.name, await chosen.text());
    if (plan.ok) onTaken(plan.value);
    else enqueueSnackbar(explain(plan.problem), { variant: 'error' });
  };
  const remove = (): void => {
    api.removePlan(plan!.id).then(
      (plans) => {
        client.setQueryData(keys.plans, plans);
        onTaken(plans[0]!);
      },
      (error: unknown) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
    );
  };
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
      <Button disabled={!isUsable} onClick={() => setNaming(true)}>
        Keep as a plan…
      </Button>
      <Button disabled={!isUsable} onClick={share}>
        Save to a file
      </Button>
      <Button onClick={() => file.current?.click()}>Read from a file</Button>
      <input ref={file} type="file" accept=".json,application/json" hidden aria-label="Plan file" onChange={(e) => void read(e)} />
      {plan && !plan.isBuiltIn && <Button onClick={remove}>Forget this plan</Button>}
      {naming && <KeepDialog plan={plan} draft={draft} onClose={() => setNaming(false)} onTaken={onTaken} />}
    </Box>
  );
}

function KeepDialog({ plan, draft, onClose, onTaken }: KeepingProps & { onClose: () => void }) {
  const client = useQueryClient();
  const [title, setTitle] = useState(plan && !plan.isBuiltIn ? plan.title : '');
  const [error, setError] = useState<unknown>(null);
  const save = (): void => {
    api.savePlan({ title: title.trim(), summary: plan?.summary ?? '', folders: foldersOf(draft) }).then((plans) => {
      client.setQueryData(keys.plans, plans);
      const kept = plans.find((p) => p.title === title.trim());
      if (kept) onTaken(kept);
      onClose();
    }, setError);
  };
  return (
    <FormDialog
      title="Keep these folders as a plan"
      confirm="Keep the plan"
      disabled={title.trim() === ''}
      maxWidth="xs"
      onConfirm={save}
      onClose={onClose}
    >
      <TextField autoFocus fullWidth label="Title of the plan" value={title} onChange={(e) => setTitle(e.target.value)} sx={{ mt: 1 }} />
      <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
        It is offered for every new project on this server. One of the same title is replaced.
      </Typography>
      {error !== null && <ErrorState error={error} />}
    </FormDialog>
  );
}
