import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { EMPTY_ORIGIN } from '@rootmap/core';
import { api } from '../api/client.js';
import { tellDone } from '../journal/tell-done.js';
import { ErrorState } from '../parts/states.js';
import type { DatasetRow } from './dataset-rows.js';
import { OriginForm } from './origin-form.js';
import { FormDialog } from '../parts/form-dialog.js';

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
    <FormDialog
      title={`Where ${row.dataset.name} came from`}
      confirm="Write it down"
      disabled={write.isPending}
      maxWidth="md"
      onConfirm={() => write.mutate()}
      onClose={onClose}
      contentSx={{ '&&': { pt: 1 } }}
    >
      <OriginForm origin={origin} onChange={setOrigin} />
      {write.isError && <ErrorState error={write.error} />}
    </FormDialog>
  );
}
