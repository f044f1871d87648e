import { MenuItem, Stack, TextField } from '@mui/material';
import type { EditRequest, TextReading } from '@rootmap/core/contract';
import { delimiterWord } from '../geodatabases/text-reading.js';

export type Dialect = NonNullable<Extract<EditRequest, { kind: 'csv-columns' }>['dialect']>;
export const AS_FOUND: Dialect = { delimiter: null, encoding: null, hasNames: null };

const DELIMITERS = [',', ';', '\t', '|', ' ', ':'];
/** Labels of the WHATWG Encoding Standard, those in use first. */
const ENCODINGS = (
  'utf-8 windows-1252 iso-8859-15 windows-1250 iso-8859-2 windows-1251 koi8-r windows-1253 windows-1254 windows-1255 windows-1256 ' +
  'windows-1257 windows-1258 macintosh utf-16le utf-16be shift_jis euc-jp gb18030 big5 euc-kr windows-874'
).split(' ');
const FOUND = 'found';

interface Props {
  readonly value: Dialect;
  /** How it is read with that; null: not known yet. */
  readonly reading: TextReading | null;
  readonly onChange: (dialect: Dialect) => void;
}

/** What keeps the values of a table of text apart, how its letters are encoded, whether its first row has names: found out, or said. */
export const DialectFields = ({ value, reading, onChange }: Props) => (
  <Stack direction="row" spacing={1} sx={{ my: 1 }}>
    <Choice
      label="Values separated by"
      value={value.delimiter}
      found={reading && delimiterWord(reading.delimiter)}
      options={DELIMITERS.map((d) => [d, delimiterWord(d)])}
      onChange={(delimiter) => onChange({ ...value, delimiter })}
    />
    <Choice
      label="Encoding"
      value={value.encoding}
      found={reading && `${reading.encoding}${reading.isGuessed ? ', a guess' : ''}`}
      options={ENCODINGS.map((e) => [e, e])}
      onChange={(encoding) => onChange({ ...value, encoding })}
    />
    <Choice
      label="The first row"
      value={value.hasNames === null ? null : value.hasNames ? 'names' : 'values'}
      found={reading && (reading.hasNames ? 'names the columns' : 'has values')}
      options={[
        ['names', 'names the columns'],
        ['values', 'has values'],
      ]}
      onChange={(row) => onChange({ ...value, hasNames: row === null ? null : row === 'names' })}
    />
  </Stack>
);

interface ChoiceProps {
  readonly label: string;
  readonly value: string | null;
  /** What is found out where nothing is said. */
  readonly found: string | null;
  readonly options: readonly (readonly [string, string])[];
  readonly onChange: (value: string | null) => void;
}
const Choice = ({ label, value, found, options, onChange }: ChoiceProps) => (
  <TextField
    select
    fullWidth
    size="small"
    label={label}
    value={value ?? FOUND}
    onChange={(e) => onChange(e.target.value === FOUND ? null : e.target.value)}
  >
    <MenuItem value={FOUND}>{value === null && found !== null ? `As found: ${found}` : 'As found'}</MenuItem>
    {options.map(([option, words]) => (
      <MenuItem key={option} value={option}>
        {words}
      </MenuItem>
    ))}
  </TextField>
);
