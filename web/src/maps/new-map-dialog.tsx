import { Box, Button, MenuItem, Tab, Tabs, TextField, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { MapFromTableView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useSettled } from '../folders/use-edit.js';
import { many } from '../parts/format.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { STATE_COLOUR, STATE_WORD } from '../parts/tether.js';
import { FormDialog } from '../parts/form-dialog.js';
import { keys } from '../api/queries.js';

/** A personal choice, kept for the next map. */
const KEPT_FORM = 'rootmap.stored-form';
type StoredChoice = 'project' | 'relative' | 'absolute';

interface Props {
  readonly project: ProjectView;
  /** From the root. */
  readonly onMade: (path: string) => void;
  readonly onClose: () => void;
}

/** A new map: empty, to bring layers into, or from a table of layers as people have it. */
export function NewMapDialog({ project, onMade, onClose }: Props) {
  const [how, setHow] = useState<'empty' | 'table'>('empty');
  const [title, setTitle] = useState('');
  const [text, setText] = useState('');
  const [form, setForm] = useState<StoredChoice>(() => (localStorage.getItem(KEPT_FORM) as StoredChoice | null) ?? 'project');
  const asked = useSettled({ title: title.trim() || 'New map', text });
  const preview = useQuery({
    queryKey: keys.of(project.key, 'map-from-table', asked),
    queryFn: () => api.mapFromTable(project.key, { ...asked, apply: false }),
    enabled: how === 'table' && asked.text.trim() !== '',
    retry: false,
    placeholderData: (before) => before,
  });
  const make = useMutation({
    mutationFn: async (): Promise<string | null> => {
      if (how === 'table') return (await api.mapFromTable(project.key, { title: title.trim(), text, apply: true })).map;
      return (await api.newMap(project.key, title.trim(), form === 'project' ? null : form)).map;
    },
    onSuccess: (path) => path !== null && (onClose(), onMade(path)),
  });
  const rows = preview.data?.rows ?? [];
  const usable = rows.filter((r) => r.href !== null).length;
  return (
    <FormDialog
      title="Make a map"
      confirm={how === 'table' ? `Make it of ${many(usable, 'layer')}` : 'Make the map'}
      disabled={title.trim() === '' || make.isPending || (how === 'table' && usable === 0)}
      maxWidth="md"
      onConfirm={() => make.mutate()}
      onClose={onClose}
    >
      <TextField autoFocus fullWidth label="Title" value={title} onChange={(e) => setTitle(e.target.value)} sx={{ mt: 1, mb: 1 }} />
      <Tabs value={how} onChange={(_, v: typeof how) => setHow(v)} aria-label="How it begins">
        <Tab value="empty" label="Empty, to bring layers into" />
        <Tab value="table" label="From a table of layers" />
      </Tabs>
      {how === 'empty' ? (
        <Typography color="text.secondary" sx={{ mt: 1.5 }}>
          Its CRS is proposed by what is brought into it first.
        </Typography>
      ) : (
        <FromTable text={text} onText={setText} rows={rows} isLooking={preview.isFetching} error={preview.error} />
      )}
      <FormChoice project={project} value={form} onChange={setForm} />
      {make.isError && <ErrorState error={make.error} />}
    </FormDialog>
  );
}

interface FromTableProps {
  readonly text: string;
  readonly onText: (text: string) => void;
  readonly rows: MapFromTableView['rows'];
  readonly isLooking: boolean;
  readonly error: unknown;
}

/** Layers as people have them: pasted, typed, or in a file. */
const FromTable = ({ text, onText, rows, isLooking, error }: FromTableProps) => (
  <Box sx={{ mt: 1.5 }}>
    <TextField
      multiline
      minRows={4}
      maxRows={8}
      fullWidth
      label="Paste or type: title, path, table"
      value={text}
      placeholder={'title\tpath\ttable\nSeagrass beds\tD:\\gis\\beds_2025.shp\t\nLand\tbase/coast.gpkg\tland'}
      onChange={(e) => onText(e.target.value)}
      slotProps={{ htmlInput: { className: 'mono' } }}
    />
    <Button component="label" sx={{ mt: 0.5 }}>
      Choose a CSV file
      <input type="file" accept=".csv,.tsv,.txt,text/csv" hidden onChange={(e) => void e.target.files?.[0]?.text().then(onText)} />
    </Button>
    {error !== null && <ErrorState error={error} />}
    {isLooking && rows.length === 0 && <Waiting what="Looking for the data…" />}
    {rows.length > 0 && <Rows rows={rows} />}
  </Box>
);

const MOST_ROWS = 200;

/** What each line would become. */
const Rows = ({ rows }: Pick<FromTableProps, 'rows'>) => (
  <Box
    component="table"
    sx={{
      width: '100%',
      mt: 1,
      fontSize: 13,
      borderCollapse: 'collapse',
      '& td, & th': { borderTop: '1px solid var(--rule)', textAlign: 'left', py: 0.5, pr: 1 },
    }}
  >
    <thead>
      <tr>
        <th>Layer</th>
        <th>Reference</th>
        <th>State</th>
      </tr>
    </thead>
    <tbody>
      {rows.slice(0, MOST_ROWS).map((r, i) => (
        <tr key={i}>
          <td>{r.title}</td>
          <td className="mono">{r.href ?? r.path}</td>
          <td style={{ color: r.state === null ? 'var(--plum)' : STATE_COLOUR[r.state] }}>
            {r.state === null ? 'left out' : STATE_WORD[r.state]}
            {r.why === null ? '' : `: ${r.why}`}
          </td>
        </tr>
      ))}
    </tbody>
  </Box>
);

interface FormChoiceProps {
  readonly project: ProjectView;
  readonly value: StoredChoice;
  readonly onChange: (form: StoredChoice) => void;
}

const FormChoice = ({ project, value, onChange }: FormChoiceProps) => (
  <TextField
    select
    size="small"
    label="Its references are stored"
    value={value}
    onChange={(e) => {
      onChange(e.target.value as StoredChoice);
      localStorage.setItem(KEPT_FORM, e.target.value);
    }}
    sx={{ mt: 2, width: 330 }}
  >
    <MenuItem value="project">as the project has it: {project.storedForm === 'absolute' ? 'absolutely' : 'relatively'}</MenuItem>
    <MenuItem value="relative">relatively: they move with the project</MenuItem>
    <MenuItem value="absolute">absolutely: they name one drive</MenuItem>
  </TextField>
);
