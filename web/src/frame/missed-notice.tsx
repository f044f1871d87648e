import { Alert, Button } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api } from '../api/client.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { useEditPlan } from '../folders/use-edit.js';

/** A project that is back: what moved while it was away is offered to its maps. */
export function MissedNotice({ projectKey }: { projectKey: string }) {
  const client = useQueryClient();
  const queryKey = ['project', projectKey, 'missed'];
  const missed = useQuery({ queryKey, queryFn: () => api.missed(projectKey) });
  const wanted = (missed.data?.moves ?? 0) > 0;
  const plan = useEditPlan(projectKey, wanted ? { kind: 'follow' } : null, true);
  const [isOpen, setOpen] = useState(false);
  if (!plan.data?.changes) return null;
  return (
    <Alert
      severity="warning"
      sx={{ borderRadius: 0, py: 0.25, alignItems: 'center' }}
      action={
        <Button color="inherit" onClick={() => setOpen(true)}>
          See what would follow
        </Button>
      }
    >
      While this project was away, data that its maps use was moved.
      {isOpen && (
        <EditDialog
          projectKey={projectKey}
          title="Follow data that moved while the project was away"
          edit={{ kind: 'follow' }}
          button="Make the references follow"
          onClose={() => setOpen(false)}
          onDone={() => void client.invalidateQueries({ queryKey })}
        />
      )}
    </Alert>
  );
}
