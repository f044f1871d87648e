import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import { useProject } from '../api/queries.js';
import { ExportReceipt } from '../exports/export-receipt.js';
import { ImportReceipts } from '../geodatabases/import-receipts.js';
import type { ReceiptJob } from './receipt-job.js';
import { CopiesReceipt } from '../sources/copies-receipt.js';
import { ErrorState, Waiting } from '../parts/states.js';

/** What came of a job, also after the dialog that started it is closed. */
export function JobReceipt({ job, onClose }: { job: ReceiptJob; onClose: () => void }) {
  const project = useProject(job.project ?? '');
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="job-receipt">
      <DialogTitle id="job-receipt" variant="h2">
        {job.title}
      </DialogTitle>
      <DialogContent>
        {project.isError ? (
          <ErrorState error={project.error} />
        ) : !project.data ? (
          <Waiting what="Reading the project…" />
        ) : job.kind === 'import' ? (
          <ImportReceipts project={project.data} done={job.result} />
        ) : job.kind === 'export' ? (
          <ExportReceipt done={job.result} shown={(path) => path.replace(`${project.data.root}/`, '')} />
        ) : (
          <CopiesReceipt done={job.result} />
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
