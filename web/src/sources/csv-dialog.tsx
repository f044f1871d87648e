import { Autocomplete, FormControlLabel, MenuItem, Radio, RadioGroup, TextField, Typography } from '@mui/material';
import { useMemo, useState } from 'react';
import type { EditRequest, ProjectView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { inRoot } from '../folders/moves.js';
import type { DatasetRow } from './dataset-rows.js';

/** Which columns of a CSV hold coordinates: what was found can be confirmed, changed, or denied. */
export function CsvDialog({ project, row, onClose }: { project: ProjectView; row: DatasetRow; onClose: () => void }) {
  const { dataset: d, source: s } = row;
  const numbers = (s?.fields ?? []).filter(([, type]) => type === 'integer' || type === 'real').map(([name]) => name);
  const guess = (pattern: RegExp, other: number): string => numbers.find((n) => pattern.test(n)) ?? numbers[other] ?? '';
  const [hasShape, setHasShape] = useState(d.kind === 'vector');
  const [x, setX] = useState(() => guess(/^(x|lon|e(ast)?)/i, 0));
  const [y, setY] = useState(() => guess(/^(y|lat|n(orth)?)/i, 1));
  const [asText, setAsText] = useState<readonly string[]>([]);
  const typed = (s?.fields ?? []).filter(([name, type]) => type !== 'text' && !(hasShape && (name === x || name === y)));
  const edit = useMemo((): EditRequest | null => {
    if (hasShape && (x === '' || y === '' || x === y)) return null;
    return {
      kind: 'csv-columns',
      dataset: inRoot(project, d.id.slice(project.root.length + 1)),
      columns: hasShape ? { x, y } : null,
      asText: asText.filter((name) => !(hasShape && (name === x || name === y))),
    };
  }, [hasShape, x, y, asText, project, d.id]);
  return (
    <EditDialog projectKey={project.key} title={`How is ${d.name} read?`} edit={edit} button="Read it so" onClose={onClose}>
      <RadioGroup value={hasShape ? 'points' : 'table'} onChange={(_, v) => setHasShape(v === 'points')} aria-label="It is">
        <FormControlLabel value="points" control={<Radio size="small" />} label="Each row is a point" disabled={numbers.length < 2} />
        <FormControlLabel value="table" control={<Radio size="small" />} label="It is a table without places" />
      </RadioGroup>
      {hasShape && (
        <>
          <ColumnField label="East, or longitude" value={x} options={numbers} onChange={setX} />
          <ColumnField label="North, or latitude" value={y} options={numbers} onChange={setY} />
        </>
      )}
      {typed.length > 0 && (
        <Autocomplete
          multiple
          disableCloseOnSelect
          options={typed.map(([name]) => name)}
          value={[...asText]}
          onChange={(_, chosen) => setAsText(chosen)}
          renderInput={(params) => (
            <TextField
              {...params}
              label="Columns that are text, as codes and keys"
              helperText="Each of them is read as a number or a day now."
            />
          )}
          sx={{ my: 1 }}
        />
      )}
      <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
        This is written into a .csvt beside it, which other programs read too. The CSV itself stays as it is.
      </Typography>
    </EditDialog>
  );
}

interface FieldProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly string[];
  readonly onChange: (value: string) => void;
}
const ColumnField = ({ label, value, options, onChange }: FieldProps) => (
  <TextField select fullWidth label={label} value={value} onChange={(e) => onChange(e.target.value)} sx={{ my: 1 }}>
    {options.map((o) => (
      <MenuItem key={o} value={o} className="mono">
        {o}
      </MenuItem>
    ))}
  </TextField>
);
