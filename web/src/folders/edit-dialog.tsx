import { Box, Button, Checkbox, Dialog, DialogActions, DialogContent, DialogTitle, FormControlLabel, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { EditApplied, EditRequest } from '@rootmap/core/contract';
import { ServerProblem } from '../api/client.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { EditPreviewList } from './edit-preview.js';
import { useApplyEdit, useEditPlan } from './use-edit.js';

interface Props {
  readonly projectKey: string;
  readonly title: string;
  /** Null: what is above it does not make an edit yet. */
  readonly edit: EditRequest | null;
  /** Verb and object for the button. */
  readonly button: string;
  /** What the person can set, above the list of what will change. */
  readonly children?: ReactNode;
  readonly onClose: () => void;
  readonly onDone?: (applied: EditApplied) => void;
}

/** Shows everything that an edit would change, and does it in one step. */
export function EditDialog({ projectKey, title, edit, button, children, onClose, onDone }: Props) {
  const [evenOriginals, setEvenOriginals] = useState(false);
  const asked = edit && 'evenOriginals' in edit ? { ...edit, evenOriginals } : edit;
  const plan = useEditPlan(projectKey, asked);
  const apply = useApplyEdit(projectKey, (applied) => {
    onDone?.(applied);
    onClose();
  });
  const error = apply.error ?? plan.error;
  const isProtected = error instanceof ServerProblem && error.details.code === 'protected';
  const hasOriginals = isProtected || evenOriginals || (plan.data?.protectedPaths.length ?? 0) > 0;
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="edit-title">
      <DialogTitle id="edit-title" variant="h2">
        {title}
      </DialogTitle>
      <DialogContent>
        {children}
        {error ? (
          <ErrorState error={error} />
        ) : edit === null ? null : plan.data ? (
          plan.data.changes || plan.data.protectedPaths.length > 0 ? (
            <EditPreviewList preview={plan.data} />
          ) : (
            <Typography>There is nothing to change.</Typography>
          )
        ) : (
          <Waiting what="Working out what would change…" />
        )}
        {hasOriginals && (
          <Box sx={{ mt: 1.5 }}>
            <FormControlLabel
              control={
                <Checkbox
                  checked={evenOriginals}
                  onChange={(e) => {
                    apply.reset();
                    setEvenOriginals(e.target.checked);
                  }}
                />
              }
              label="These are originals. Do it all the same"
            />
          </Box>
        )}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!plan.data?.changes || plan.isError || apply.isPending}
          onClick={() => asked && apply.mutate(asked)}
        >
          {button}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
