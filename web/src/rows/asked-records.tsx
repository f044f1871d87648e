import { Box, TextField } from '@mui/material';
import { ErrorState, Waiting } from '../parts/states.js';
import { ConditionForm } from './condition-form.js';
import { Conditions } from './conditions.js';
import { Records, type RecordsProps } from './records-table.js';
import type { AskedRows } from './use-asked-rows.js';

/** What the records must hold: any words, and conditions on fields. */
export const RowsSearch = ({ rows, children }: { readonly rows: AskedRows; readonly children?: React.ReactNode }) => (
  <>
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, flexWrap: 'wrap' }}>
      <TextField
        placeholder="Find in any field…"
        value={rows.words}
        onChange={(e) => rows.setWords(e.target.value)}
        slotProps={{ htmlInput: { 'aria-label': 'Find in any field' } }}
        sx={{ width: 200 }}
      />
      {rows.head.data && <ConditionForm fields={rows.head.data.fields} onAdd={(c) => rows.setWhere((before) => [...before, c])} />}
      {children}
    </Box>
    <Conditions where={rows.where} onChange={rows.setWhere} />
  </>
);

/** The records that are asked for, or why there are none. */
export function AskedRecords({ rows, choosing }: { readonly rows: AskedRows; readonly choosing?: RecordsProps['choosing'] }) {
  const { head, rowAt, at, sort, setSort, setSight } = rows;
  if (head.isError) return <ErrorState error={head.error} />;
  if (!head.data) return <Waiting what="Reading the records…" />;
  return (
    <Records page={head.data} rowAt={rowAt} at={at} sort={sort} onSort={setSort} onSight={setSight} {...(choosing ? { choosing } : {})} />
  );
}
