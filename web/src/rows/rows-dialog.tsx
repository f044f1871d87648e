import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import type { RowCondition, RowsRequest } from '@rootmap/core/contract';
import { useSettled } from '../folders/use-edit.js';
import { many, number } from '../parts/format.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { ConditionForm } from './condition-form.js';
import { Conditions } from './conditions.js';
import { FIRST_SIGHT, Records, type InSight } from './records-table.js';
import { useRows } from './use-rows.js';

interface Props {
  readonly projectKey: string;
  /** Id of the dataset. */
  readonly dataset: string;
  readonly onClose: () => void;
}

/** The records of a dataset with their values: found, narrowed and sorted on the server, so that a million is no more than ten. */
export function RowsDialog({ projectKey, dataset, onClose }: Props) {
  const [words, setWords] = useState('');
  const [where, setWhere] = useState<readonly RowCondition[]>([]);
  const [sort, setSort] = useState<RowsRequest['sort']>(null);
  const find = useSettled(words);
  const [sight, setSight] = useState<InSight>(FIRST_SIGHT);
  const asked = { dataset, sort, find, where, filter: '', seek: null };
  const { head, rowAt } = useRows(projectKey, asked, sight.first, sight.last);
  const page = head.data;
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
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, flexWrap: 'wrap', pt: 1 }}>
          <TextField
            placeholder="Find in any field…"
            value={words}
            onChange={(e) => setWords(e.target.value)}
            slotProps={{ htmlInput: { 'aria-label': 'Find in any field' } }}
            sx={{ width: 220 }}
          />
          {page && <ConditionForm fields={page.fields} onAdd={(c) => setWhere((before) => [...before, c])} />}
          <Typography variant="body2" color="text.secondary" role="status">
            {page ? (page.found === page.all ? many(page.all, 'record') : `${number(page.found)} of ${many(page.all, 'record')}`) : ''}
          </Typography>
        </Box>
        <Conditions where={where} onChange={setWhere} />
        {head.isError ? (
          <ErrorState error={head.error} />
        ) : !page ? (
          <Waiting what="Reading the records…" />
        ) : (
          <Records page={page} rowAt={rowAt} sort={sort} onSort={setSort} onSight={setSight} />
        )}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
