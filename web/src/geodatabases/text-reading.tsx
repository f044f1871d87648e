import { Box, Button } from '@mui/material';
import { useState } from 'react';
import type { TextReading } from '@rootmap/core/contract';
import { many } from '../parts/format.js';

const DELIMITER: Readonly<Record<string, string>> = {
  ',': 'commas',
  ';': 'semicolons',
  '\t': 'tabs',
  '|': 'bars',
  ' ': 'spaces',
  ':': 'colons',
};
export const delimiterWord = (delimiter: string): string => DELIMITER[delimiter] ?? `"${delimiter}"`;
const TYPE: Readonly<Record<string, string>> = {
  text: 'text',
  integer: 'whole number',
  integer64: 'long whole number',
  real: 'number',
  date: 'day',
};
const WRITTEN: Readonly<Record<string, string>> = {
  comma: 'with a decimal comma',
  'day-first': 'day first',
  'month-first': 'month first',
  degrees: 'degrees',
};

/** How a table of text is read, with its first values, so that it can be confirmed before it is brought in. */
export function TextReadingCard({ reading, file }: { reading: TextReading; file: string }) {
  const [isOpen, setOpen] = useState(false);
  const { encoding, isGuessed, delimiter, hasNames, columns } = reading;
  return (
    <Box>
      Read as {encoding}
      {isGuessed ? ' (a guess)' : ''}, {many(columns.length, 'column')} apart by {delimiterWord(delimiter)}
      {hasNames ? '' : ', without names'}.{' '}
      <Button size="small" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {isOpen ? 'Hide its columns' : 'Show its columns'}
      </Button>
      {isOpen && <ReadingTable columns={columns} label={`Columns of ${file}`} />}
    </Box>
  );
}

/** The columns of a table of text with the first values of each. */
export const ReadingTable = ({ columns, label }: { columns: TextReading['columns']; label: string }) => (
  <Box sx={{ maxHeight: 220, overflow: 'auto', border: '1px solid var(--rule)', borderRadius: '3px' }} tabIndex={0}>
    <Box
      component="table"
      aria-label={label}
      sx={{
        width: '100%',
        borderCollapse: 'collapse',
        '& th, & td': { textAlign: 'left', px: 1, py: 0.25, borderBottom: '1px solid var(--rule)', verticalAlign: 'top' },
      }}
    >
      <thead>
        <tr>
          <th>Column</th>
          <th>Read as</th>
          <th>First values, as they stand</th>
        </tr>
      </thead>
      <tbody>
        {columns.map((c) => (
          <tr key={c.name}>
            <td className="mono">{c.name}</td>
            <td>
              {TYPE[c.type] ?? c.type}
              {c.writtenAs === null ? '' : `, ${WRITTEN[c.writtenAs] ?? c.writtenAs}`}
            </td>
            <td className="mono">{c.samples.filter((s) => s !== '').join(' · ')}</td>
          </tr>
        ))}
      </tbody>
    </Box>
  </Box>
);
