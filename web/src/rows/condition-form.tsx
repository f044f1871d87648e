import { Box, Button, MenuItem, TextField } from '@mui/material';
import { useState, type FormEvent } from 'react';
import { ROW_TESTS, type RowCondition, type RowsPage, type RowTest } from '@rootmap/core/contract';

interface Props {
  readonly fields: RowsPage['fields'];
  readonly onAdd: (condition: RowCondition) => void;
}

const words: Readonly<Partial<Record<RowTest, string>>> = { empty: 'is empty', filled: 'is filled' };

/** One more condition: a field, what is asked of it, a value. */
export function ConditionForm({ fields, onAdd }: Props) {
  const [field, setField] = useState('');
  const [test, setTest] = useState<RowTest>('contains');
  const [value, setValue] = useState('');
  const takesValue = test !== 'empty' && test !== 'filled';
  const add = (e: FormEvent): void => {
    e.preventDefault();
    onAdd({ field, test, value: takesValue ? value : '' });
    setValue('');
  };
  return (
    <Box component="form" onSubmit={add} aria-label="Condition" sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
      <TextField select label="Field" value={field} onChange={(e) => setField(e.target.value)} sx={{ width: 160 }}>
        {fields.map((f) => (
          <MenuItem key={f.name} value={f.name}>
            {f.name}
          </MenuItem>
        ))}
      </TextField>
      <TextField select label="Is" value={test} onChange={(e) => setTest(e.target.value as RowTest)} sx={{ width: 120 }}>
        {ROW_TESTS.map((t) => (
          <MenuItem key={t} value={t}>
            {words[t] ?? t}
          </MenuItem>
        ))}
      </TextField>
      {takesValue && <TextField label="Value" value={value} onChange={(e) => setValue(e.target.value)} sx={{ width: 130 }} />}
      <Button type="submit" disabled={field === '' || (takesValue && value === '')}>
        Keep only these
      </Button>
    </Box>
  );
}
