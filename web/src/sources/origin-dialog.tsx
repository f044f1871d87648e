import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { EMPTY_ORIGIN } from '@rootmap/core';
import { api } from '../api/client.js';
import { tellDone } from '../journal/tell-done.js';
import { ErrorState } from '../parts/states.js';
import type { DatasetRow } from './dataset-rows.js';
import { OriginForm } from './origin-form.js';

/** Writes the origin of a dataset into the record beside it. */
export function OriginDialog({ projectKey, row, onClose }: { projectKey: string; row: DatasetRow; onClose: () => void }) {
  const [origin, setOrigin] = useState(row.source?.origin ?? EMPTY_ORIGIN);
  const write = useMutation({
    mutationFn: () => api.writeOrigin(projectKey, { datasets: [row.dataset.id], origin }),
    onSuccess: ({ change }) => {
      tellDone('The origin is written down beside the data.', change);
      onClose();
    },
  });
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="origin-title">
      <DialogTitle id="origin-title" variant="h2">
        Where {row.dataset.name} came from
      </DialogTitle>
      <DialogContent sx={{ '&&': { pt: 1 } }}>
        <OriginForm origin={origin} onChange={setOrigin} />
        {write.isError && <ErrorState error={write.error} />}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={write.isPending} onClick={() => write.mutate()}>
          Write it down
        </Button>
      </DialogActions>
    </Dialog>
  );
}
