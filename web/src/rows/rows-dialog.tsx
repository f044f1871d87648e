import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { many, number } from '../parts/format.js';
import { AskedRecords, RowsSearch } from './asked-records.js';
import { useAskedRows } from './use-asked-rows.js';

interface Props {
  readonly projectKey: string;
  /** Id of the dataset. */
  readonly dataset: string;
  readonly onClose: () => void;
}

/** The records of a dataset with their values: found, narrowed and sorted on the server, so that a million is no more than ten. */
export function RowsDialog({ projectKey, dataset, onClose }: Props) {
  const rows = useAskedRows(projectKey, { dataset, filter: '' });
  const page = rows.head.data;
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth={false}
      fullWidth
      aria-labelledby="rows-title"
      slotProps={{ paper: { sx: { height: '92vh', maxWidth: 1400 } } }}
    >
      <DialogTitle id="rows-title" variant="h2">
        Rows of <span className="mono">{dataset.slice(dataset.lastIndexOf('/') + 1)}</span>
      </DialogTitle>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 1, overflow: 'hidden', pb: 1 }}>
        <Box sx={{ pt: 1 }} />
        <RowsSearch rows={rows}>
          <Typography variant="body2" color="text.secondary" role="status">
            {page ? (page.found === page.all ? many(page.all, 'record') : `${number(page.found)} of ${many(page.all, 'record')}`) : ''}
          </Typography>
        </RowsSearch>
        <AskedRecords rows={rows} />
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
