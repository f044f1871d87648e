import { Box, Button, TextField, Typography } from '@mui/material';
import { checkFilter, printField, type Field } from '@rootmap/core';
import { many } from '../../parts/format.js';
import { useTyped } from '../../parts/use-typed.js';

interface Props {
  readonly filter: string;
  readonly fields: readonly Field[];
  readonly count: number | null;
  readonly hidden: number | null;
  readonly onChange: (filter: string) => void;
}

/** Which records are drawn, as an expression that is checked against the fields while it is typed. */
export function FilterEditor({ filter, fields, count, hidden, onChange }: Props) {
  const [text, setText] = useTyped(filter);
  const faults = checkFilter(text, fields);
  const isOther = text.trim() !== filter.trim();
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
      <TextField
        multiline
        minRows={2}
        label="Draw only records where"
        value={text}
        placeholder="depth > 5 AND kind IN ('reef', 'bank')"
        onChange={(e) => setText(e.target.value)}
        error={faults.length > 0}
        helperText={faults.length > 0 ? `${faults.map((f) => f.why).join('; ')}.` : ' '}
        slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Filter' } }}
      />
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" disabled={faults.length > 0 || !isOther} onClick={() => onChange(text.trim())}>
          Use the filter
        </Button>
        <Button disabled={filter === '' && text === ''} onClick={() => (setText(''), onChange(''))}>
          Draw all records
        </Button>
      </Box>
      {filter !== '' && count !== null && hidden !== null && (
        <Typography variant="body2">
          {many(count - hidden, 'record')} of {many(count, 'record')} are drawn.
        </Typography>
      )}
      <Typography variant="body2" color="text.secondary" component="div">
        Fields:{' '}
        {fields.slice(0, 40).map((f) => (
          <Button
            key={f.name}
            size="small"
            className="mono"
            sx={{ minWidth: 0, px: 0.5, py: 0 }}
            title={f.type}
            onClick={() => setText(`${text}${text === '' || text.endsWith(' ') ? '' : ' '}${printField(f.name)} `)}
          >
            {f.name}
          </Button>
        ))}
        <div>
          Comparisons = &lt;&gt; &lt; &lt;= &gt; &gt;=, AND, OR, NOT, IN, BETWEEN, LIKE (with %), IS NULL. Text stands in single quotes.
        </div>
      </Typography>
    </Box>
  );
}
