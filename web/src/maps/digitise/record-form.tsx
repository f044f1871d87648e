import { Box, Button, Checkbox, FormControlLabel, TextField } from '@mui/material';
import { useState } from 'react';
import type { Field } from '@rootmap/core';
import type { ShownValue } from '@rootmap/core/contract';
import { useTyped } from '../../parts/use-typed.js';
import type { EditedRecord } from './edit-session.js';
import { FieldTypeChoice } from './new-dataset-form.js';

/** The values of one record. */
export function RecordForm({
  record,
  fields,
  onSet,
  onRemove,
}: {
  record: EditedRecord;
  fields: readonly Field[];
  onSet: (field: number, value: ShownValue) => void;
  onRemove: () => void;
}) {
  return (
    <Box
      role="group"
      aria-label="Values of the chosen record"
      sx={{ px: 1.25, pb: 1, display: 'flex', flexWrap: 'wrap', gap: 1, maxHeight: 220, overflow: 'auto', alignItems: 'center' }}
    >
      {fields.map((f, i) =>
        f.type === 'boolean' ? (
          <FormControlLabel
            key={f.name}
            control={<Checkbox size="small" checked={record.values[i] === true} onChange={(e) => onSet(i, e.target.checked)} />}
            label={f.name}
          />
        ) : (
          <ValueField key={f.name} field={f} value={record.values[i] ?? null} onSet={(v) => onSet(i, v)} />
        ),
      )}
      <Button color="secondary" onClick={onRemove}>
        Remove this record
      </Button>
    </Box>
  );
}

function ValueField({ field, value, onSet }: { field: Field; value: ShownValue; onSet: (value: ShownValue) => void }) {
  const [text, setText] = useTyped(value === null ? '' : String(value));
  const isNumber = field.type === 'real' || field.type === 'integer' || field.type === 'integer64';
  const isWrong = isNumber && text.trim() !== '' && !Number.isFinite(Number(text.replace(',', '.')));
  const take = (): void => {
    const now: ShownValue = text.trim() === '' ? null : isNumber ? (isWrong ? text : Number(text.replace(',', '.'))) : text;
    if (now !== value) onSet(now);
  };
  return (
    <TextField
      size="small"
      label={field.name}
      type={field.type === 'date' ? 'date' : 'text'}
      value={text}
      disabled={field.type === 'binary' || field.type === 'json'}
      error={isWrong}
      helperText={isWrong ? 'no number' : undefined}
      onChange={(e) => setText(e.target.value)}
      onBlur={take}
      onKeyDown={(e) => e.key === 'Enter' && take()}
      slotProps={{ inputLabel: { shrink: true } }}
      sx={{ width: 130 }}
    />
  );
}

export function NewField({ onAdd, taken }: { onAdd: (field: Field) => void; taken: readonly string[] }) {
  const [isOpen, setOpen] = useState(false);
  const [name, setName] = useState('');
  const [type, setType] = useState<'text' | 'integer' | 'real' | 'boolean' | 'date'>('text');
  const isTaken = taken.includes(name.trim().toLowerCase());
  if (!isOpen)
    return (
      <Button size="small" sx={{ alignSelf: 'flex-start', ml: 1 }} onClick={() => setOpen(true)}>
        Add a field
      </Button>
    );
  return (
    <Box sx={{ display: 'flex', gap: 1, px: 1.25, pb: 1, alignItems: 'flex-start' }}>
      <TextField
        size="small"
        label="New field"
        value={name}
        onChange={(e) => setName(e.target.value)}
        error={isTaken}
        helperText={isTaken ? 'it is there already' : undefined}
      />
      <FieldTypeChoice value={type} onChange={setType} />
      <Button disabled={name.trim() === '' || isTaken} onClick={() => (onAdd({ name: name.trim(), type }), setName(''), setOpen(false))}>
        Add it
      </Button>
    </Box>
  );
}
