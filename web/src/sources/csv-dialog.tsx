import { Autocomplete, FormControlLabel, MenuItem, Radio, RadioGroup, TextField, Typography } from '@mui/material';
import { useMemo, useState } from 'react';
import type { EditRequest, ProjectView, TextReading } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { inRoot } from '../folders/moves.js';
import { useEditPlan } from '../folders/use-edit.js';
import { ReadingTable } from '../geodatabases/text-reading.js';
import { AS_FOUND, DialectFields, type Dialect } from './dialect-fields.js';
import type { DatasetRow } from './dataset-rows.js';

interface Props {
  readonly project: ProjectView;
  readonly row: DatasetRow;
  readonly onClose: () => void;
}

/** How a table of text is read: what keeps its values apart, its letters, which columns hold coordinates, which are text. */
export function CsvDialog({ project, row, onClose }: Props) {
  const { dataset: d } = row;
  const dataset = useMemo(() => inRoot(project, d.id.slice(project.root.length + 1)), [project, d.id]);
  const [dialect, setDialect] = useState<Dialect | null>(null);
  // How it would be read, whatever is said of its columns below.
  const probe = useMemo(
    (): EditRequest => ({ kind: 'csv-columns', dataset, columns: null, ...(dialect ? { dialect } : {}) }),
    [dataset, dialect],
  );
  const reading = useEditPlan(project.key, probe).data?.reading ?? null;
  const [hasShape, setHasShape] = useState(d.kind === 'vector');
  const [chosen, setChosen] = useState<{ readonly x?: string; readonly y?: string }>({});
  const [asText, setAsText] = useState<readonly string[]>([]);
  const numbers = (reading?.columns ?? []).filter(isCoordinate).map((c) => c.name);
  const [x, y] = [coordinate(chosen.x, numbers, /^(x|lon|e(ast)?)/i, 0), coordinate(chosen.y, numbers, /^(y|lat|n(orth)?)/i, 1)];
  // Before it is read nothing is chosen otherwise than it is now.
  const isPoints = hasShape && (reading === null || numbers.length > 1);
  const texts = (reading?.columns ?? [])
    .filter((c) => c.type !== 'text' && !(isPoints && (c.name === x || c.name === y)))
    .map((c) => c.name);
  const edit = useMemo((): EditRequest | null => {
    if (!reading || (isPoints && x === y)) return null;
    return {
      kind: 'csv-columns',
      dataset,
      columns: isPoints ? { x, y } : null,
      asText: asText.filter((name) => reading.columns.some((c) => c.name === name) && !(isPoints && (name === x || name === y))),
      ...(dialect ? { dialect } : {}),
    };
  }, [reading, isPoints, x, y, asText, dataset, dialect]);
  return (
    <EditDialog projectKey={project.key} title={`How is ${d.name} read?`} edit={edit} button="Read it so" onClose={onClose}>
      <DialectFields value={dialect ?? reading?.stated ?? AS_FOUND} reading={reading} onChange={setDialect} />
      {reading && <ReadingTable columns={reading.columns} label={`Columns of ${d.name}`} />}
      <RadioGroup value={isPoints ? 'points' : 'table'} onChange={(_, v) => setHasShape(v === 'points')} aria-label="It is">
        <FormControlLabel value="points" control={<Radio size="small" />} label="Each row is a point" disabled={numbers.length < 2} />
        <FormControlLabel value="table" control={<Radio size="small" />} label="It is a table without places" />
      </RadioGroup>
      {isPoints && reading && (
        <>
          <ColumnField label="East, or longitude" value={x} options={numbers} onChange={(name) => setChosen({ ...chosen, x: name })} />
          <ColumnField label="North, or latitude" value={y} options={numbers} onChange={(name) => setChosen({ ...chosen, y: name })} />
        </>
      )}
      {texts.length > 0 && (
        <Autocomplete
          multiple
          disableCloseOnSelect
          options={texts}
          value={asText.filter((name) => texts.includes(name))}
          onChange={(_, names) => setAsText(names)}
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
        This is written beside it, as a .csvt and, for the values and letters, as tabular metadata of the W3C, which other programs read
        too. The table itself stays as it is.
      </Typography>
    </EditDialog>
  );
}

const isCoordinate = ({ type, writtenAs }: TextReading['columns'][number]): boolean =>
  type === 'integer' || type === 'real' || writtenAs === 'degrees';

/** The column that was chosen, while there is one of that name; else the one that is called like it, or stands there. */
const coordinate = (chosen: string | undefined, names: readonly string[], called: RegExp, at: number): string =>
  (chosen !== undefined && names.includes(chosen) ? chosen : (names.find((n) => called.test(n)) ?? names[at])) ?? '';

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
