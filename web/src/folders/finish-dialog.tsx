import { Typography } from '@mui/material';
import type { EditRequest } from '@rootmap/core/contract';
import { SEND_EVERYTHING } from '../send/use-send.js';
import { useBundle } from '../api/queries.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EditDialog } from './edit-dialog.js';

/** The end of a job: bundled, links dropped, marked done. */
export function FinishDialog({ projectKey, onClose }: { projectKey: string; onClose: () => void }) {
  const bundle = useBundle(projectKey, SEND_EVERYTHING);
  const edit: EditRequest | null = bundle.data ? { kind: 'finish', bundle: bundle.data.suggested } : null;
  return (
    <EditDialog projectKey={projectKey} title="Finish the project" edit={edit} button="Bundle and finish" onClose={onClose}>
      {bundle.isError ? (
        <ErrorState error={bundle.error} />
      ) : bundle.data ? (
        <Typography sx={{ mb: 1 }}>
          {many(bundle.data.files, 'file')}, {bytes(bundle.data.bytes)}, go into{' '}
          <PathText path={`${bundle.data.suggested.place}/${bundle.data.suggested.path}`} most={70} />. When the bundle is made and read
          back, the project’s links are dropped and it is marked done. The folder stays where it is.
        </Typography>
      ) : (
        <Waiting what="Working out what goes into the bundle…" />
      )}
    </EditDialog>
  );
}
