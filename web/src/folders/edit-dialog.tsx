import { Box, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { EditApplied, EditRequest } from '@rootmap/core/contract';
import { ServerProblem } from '../api/client.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { EditPreviewList } from './edit-preview.js';
import { useApplyEdit, useEditPlan } from './use-edit.js';
import { FormDialog } from '../parts/form-dialog.js';

interface Props {
  readonly projectKey: string;
  readonly title: string;
  /** Null: what is above it does not make an edit yet. */
  readonly edit: EditRequest | null;
  /** Verb and object for the button. */
  readonly button: string;
  /** What is typed above is not what is shown below yet. */
  readonly isSettling?: boolean;
  /** What the person can set, above the list of what will change. */
  readonly children?: ReactNode;
  readonly onClose: () => void;
  readonly onDone?: (applied: EditApplied) => void;
}

/** Shows everything that an edit would change, and does it in one step. */
export function EditDialog({ projectKey, title, edit, button, isSettling = false, children, onClose, onDone }: Props) {
  const [evenOriginals, setEvenOriginals] = useState(false);
  const [evenMentioned, setEvenMentioned] = useState(false);
  const asked = withConsent(edit, evenOriginals, evenMentioned);
  const apply = useApplyEdit(projectKey, (applied) => {
    onDone?.(applied);
    onClose();
  });
  const plan = useEditPlan(projectKey, asked, false, apply.isPending || apply.isSuccess);
  const error = apply.error ?? plan.error;
  const isProtected = error instanceof ServerProblem && error.details.code === 'protected';
  const hasOriginals = isProtected || evenOriginals || (plan.data?.protectedPaths.length ?? 0) > 0;
  return (
    <FormDialog
      title={title}
      confirm={button}
      disabled={!plan.data?.changes || plan.isError || apply.isPending || isSettling}
      maxWidth="md"
      onConfirm={() => asked && apply.mutate(asked)}
      onClose={onClose}
    >
      {children}
      {error ? (
        <ErrorState error={error} />
      ) : edit === null ? null : plan.data ? (
        plan.data.changes || plan.data.protectedPaths.length + plan.data.mentionedNames.length > 0 ? (
          <EditPreviewList preview={plan.data} />
        ) : (
          <Typography>There is nothing to change.</Typography>
        )
      ) : (
        <Waiting what="Working out what would change…" />
      )}
      <Consent
        when={hasOriginals}
        label="These are originals. Do it all the same"
        value={evenOriginals}
        onChange={(v) => (apply.reset(), setEvenOriginals(v))}
      />
      <Consent
        when={(plan.data?.mentionedNames.length ?? 0) > 0}
        label="Rename what other files mention, too. Those files have to be changed by hand"
        value={evenMentioned}
        onChange={setEvenMentioned}
      />
    </FormDialog>
  );
}

function withConsent(edit: EditRequest | null, evenOriginals: boolean, evenMentioned: boolean): EditRequest | null {
  if (edit?.kind === 'names') return { ...edit, evenOriginals, evenMentioned };
  return edit && 'evenOriginals' in edit ? { ...edit, evenOriginals } : edit;
}

interface ConsentProps {
  readonly when: boolean;
  readonly label: string;
  readonly value: boolean;
  readonly onChange: (value: boolean) => void;
}

/** What is left out for good reason is done only when the person says so. */
const Consent = ({ when, label, value, onChange }: ConsentProps) =>
  when || value ? (
    <Box sx={{ mt: 0.5 }}>
      <FormControlLabel control={<Checkbox checked={value} onChange={(e) => onChange(e.target.checked)} />} label={label} />
    </Box>
  ) : null;
