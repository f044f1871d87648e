import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { ProjectView, QualityRow } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useSources } from '../api/queries.js';
import { useApplyEdit } from '../folders/use-edit.js';
import { many } from '../parts/format.js';
import { FormDialog } from '../parts/form-dialog.js';
import { ErrorState } from '../parts/states.js';

interface Props {
  readonly project: ProjectView;
  readonly row: QualityRow;
  readonly onClose: () => void;
}

const codesOf = (text: string): string[] => [
  ...new Set(
    text
      .split(/\r?\n/)
      .map((c) => c.trim())
      .filter(Boolean),
  ),
];

/** Which values may stand in a field: a line each, kept beside the data, and held against it at the next check. */
export function CodesDialog({ project, row, onClose }: Props) {
  const source = useSources(project.key).data?.sources.find((s) => s.id === row.id);
  const listed = useQuery({ queryKey: keys.of(project.key, 'codes', row.id), queryFn: () => api.codes(project.key, row.id), gcTime: 0 });
  const statistics = useQuery({
    queryKey: keys.of(project.key, 'statistics', row.id),
    queryFn: ({ signal }) => api.statistics(project.key, row.id, signal),
    retry: false,
  });
  const [chosen, setChosen] = useState<string | null>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const lists = listed.data ?? {};
  const fields = source?.fields.map(([name]) => name) ?? [];
  const field = chosen ?? Object.keys(lists)[0] ?? fields[0] ?? '';
  const text = typed ?? (lists[field] ?? []).join('\n');
  const codes = codesOf(text);
  const there = statistics.data?.fields.find((f) => f.name === field);
  const apply = useApplyEdit(project.key, onClose);
  return (
    <FormDialog
      title={`Codes that are expected in ${row.name.slice(row.name.lastIndexOf('/') + 1)}`}
      confirm={codes.length > 0 ? `Expect ${many(codes.length, 'code')}` : 'Expect anything'}
      disabled={field === '' || apply.isPending || !listed.data}
      maxWidth="sm"
      onConfirm={() => apply.mutate({ kind: 'codes', dataset: row.id, field, codes })}
      onClose={onClose}
      contentSx={{ '&&': { pt: 1 } }}
    >
      <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
        <TextField
          select
          label="Field"
          value={field}
          onChange={(e) => {
            setChosen(e.target.value);
            setTyped(null);
          }}
        >
          {fields.map((name) => (
            <MenuItem key={name} value={name}>
              {name}
              {lists[name] ? ` (${many(lists[name].length, 'code')})` : ''}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          multiline
          minRows={6}
          maxRows={14}
          label="Codes, one a line"
          value={text}
          onChange={(e) => setTyped(e.target.value)}
          slotProps={{ htmlInput: { className: 'mono' } }}
        />
        {there && there.samples.length > 0 && (
          <div>
            <Button size="small" onClick={() => setTyped([...codesOf(text), ...there.samples].join('\n'))}>
              Take what stands in it ({there.samples.slice(0, 4).join(', ')}
              {there.samples.length > 4 ? ' …' : ''})
            </Button>
          </div>
        )}
        <Typography variant="body2" color="text.secondary">
          They stand beside the data as a Table Schema, and are looked at when the dataset is checked again.
        </Typography>
        {(listed.isError || apply.isError) && <ErrorState error={listed.error ?? apply.error} />}
      </Box>
    </FormDialog>
  );
}
