import { Autocomplete, Box, Table, TableBody, TableCell, TableHead, TableRow, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { scaleWords, type RecordComparison } from '@rootmap/core';
import type { ProjectView, QualityRow } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { CompareMaps } from './compare-maps.js';
import { many, number } from '../parts/format.js';
import { FormDialog } from '../parts/form-dialog.js';
import { ErrorState } from '../parts/states.js';

interface Props {
  readonly project: ProjectView;
  readonly row: QualityRow;
  readonly others: readonly QualityRow[];
  readonly onClose: () => void;
}

const nameOf = ({ name }: QualityRow): string => name.slice(name.lastIndexOf('/') + 1);

/** A dataset against another edition of it: what became of the records, and how finely each was drawn. */
export function CompareDialog({ project, row, others, onClose }: Props) {
  const [against, setAgainst] = useState<QualityRow | null>(null);
  const [key, setKey] = useState('');
  const compare = useMutation({
    mutationFn: () =>
      api.compareEditions(project.key, { dataset: row.id, against: against?.id ?? '', key: key.trim() === '' ? null : key.trim() }),
  });
  return (
    <FormDialog
      title={`Compare ${nameOf(row)} with another edition`}
      confirm={compare.isPending ? 'Comparing…' : 'Compare'}
      disabled={against === null || compare.isPending}
      onConfirm={() => compare.mutate()}
      onClose={onClose}
      maxWidth="lg"
      contentSx={{ '&&': { pt: 1 } }}
    >
      <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '1fr 220px' }, gap: 1.5, mb: 2 }}>
        <Autocomplete
          options={others}
          value={against}
          getOptionLabel={(o) => o.name}
          isOptionEqualToValue={(a, b) => a.id === b.id}
          onChange={(_, value) => setAgainst(value)}
          renderInput={(params) => <TextField {...params} label="Before" placeholder="The edition that was there before" />}
        />
        <TextField label="Key" value={key} onChange={(e) => setKey(e.target.value)} helperText="A field; empty: one is looked for" />
      </Box>
      {compare.isError && <ErrorState error={compare.error} />}
      {compare.data && <Found found={compare.data} />}
      {compare.data && against && row.kind === 'vector' && (
        <CompareMaps projectKey={project.key} before={against} now={row} found={compare.data} />
      )}
    </FormDialog>
  );
}

function Found({ found }: { found: RecordComparison }) {
  const { before, after, fields } = found;
  const facts: [string, string, string][] = [
    ['Records', number(before.records), number(after.records)],
    ['Corners', number(before.vertices), number(after.vertices)],
    ['Corners apart (median)', metres(before.spacing), metres(after.spacing)],
    ['Scale that this bears', scale(before.scale), scale(after.scale)],
    ['Extent (west, south, east, north)', box(before.extent), box(after.extent)],
  ];
  return (
    <Box role="status">
      <Typography sx={{ fontWeight: 650 }}>
        {number(found.same)} the same, {number(found.added)} added, {number(found.removed)} removed, {number(found.changed)} changed
      </Typography>
      <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
        {found.key === null
          ? 'Told by shape and content: no field is a key of both, so a record that changed counts as removed and added.'
          : `Told by ${found.key}.`}
      </Typography>
      <Table size="small">
        <TableHead>
          <TableRow>
            <TableCell />
            <TableCell>Before</TableCell>
            <TableCell>Now</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {facts.map(([what, was, is]) => (
            <TableRow key={what}>
              <TableCell>{what}</TableCell>
              <TableCell>{was}</TableCell>
              <TableCell>{is}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      {fields.added.length + fields.gone.length > 0 && (
        <Typography variant="body2" sx={{ mt: 1 }}>
          {fields.added.length > 0 && `New fields: ${fields.added.join(', ')}. `}
          {fields.gone.length > 0 && `Gone fields: ${fields.gone.join(', ')}.`}
        </Typography>
      )}
      {found.examples.length > 0 && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
          {many(found.examples.length, 'example')}: {found.examples.map((e) => `record ${e.record ?? ''} ${e.what}`).join('; ')}
        </Typography>
      )}
    </Box>
  );
}

const box = (e: RecordComparison['before']['extent']): string => (e === null ? 'none' : e.map((n) => Number(n.toPrecision(8))).join(', '));
const metres = (m: number | null): string => (m === null ? 'not told' : `${Number(m.toPrecision(3))} m`);
const scale = (n: number | null): string => (n === null ? 'not told' : scaleWords(n));
