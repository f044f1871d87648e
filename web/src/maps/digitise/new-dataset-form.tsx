import { Box, Button, IconButton, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { mdiClose } from '@mdi/js';
import { useState } from 'react';
import { DEFAULT_NAMING, proposeName } from '@rootmap/core';
import { DRAWN_KINDS, NEW_FIELD_TYPES, type DrawnKind, type NewDataset, type NewFormat, type ProjectView } from '@rootmap/core/contract';
import { useGeodatabases, useWorkFolder } from '../../api/queries.js';
import { inRoot } from '../../folders/moves.js';
import { Icon } from '../../parts/icon.js';
import { useWorking } from '../edit/use-working.js';

const KIND_WORDS: Readonly<Record<DrawnKind, string>> = { Point: 'Points', LineString: 'Lines', Polygon: 'Areas' };
const FORMAT_WORDS: Readonly<Record<NewFormat, string>> = {
  geopackage: 'Table in a geodatabase',
  shapefile: 'Shapefile',
  geojson: 'GeoJSON',
};
const ENDINGS: Readonly<Record<NewFormat, string>> = { geopackage: 'gpkg', shapefile: 'shp', geojson: 'geojson' };
type NewField = { readonly name: string; readonly type: (typeof NEW_FIELD_TYPES)[number] };

interface Props {
  readonly project: ProjectView;
  /** The map that it is drawn in, from the root. */
  readonly map: string;
  readonly crs: string;
  readonly onStart: (create: NewDataset) => void;
  readonly onClose: () => void;
}

/** What is to be drawn: its kind, its fields, and where it will stand. Nothing is written before it is saved. */
export function NewDatasetForm({ project, map, crs, onStart, onClose }: Props) {
  const folder = useWorkFolder(project.key);
  const working = useWorking(project, map, true);
  const isWorkingKnown = useGeodatabases(project.key).data !== undefined;
  const [name, setName] = useState('');
  const [kind, setKind] = useState<DrawnKind>('LineString');
  const [format, setFormat] = useState<NewFormat>('geopackage');
  const [fields, setFields] = useState<readonly NewField[]>([{ name: 'depth', type: 'real' }]);
  const stem = proposeName(name.trim(), DEFAULT_NAMING);
  const isNamed = name.trim() !== '';
  const own = folder === null ? null : `${folder}/${stem}.${ENDINGS[format]}`;
  // A table goes where the map works; where no geodatabase is there for that, it gets one of its own.
  const path = format !== 'geopackage' ? own : isWorkingKnown ? (working ?? own) : null;
  const twice = fields.find((f, i) => fields.findIndex((o) => o.name.toLowerCase() === f.name.toLowerCase()) !== i);
  const ok = isNamed && fields.every((f) => f.name.trim() !== '') && !twice;
  return (
    <Box sx={{ p: 1.5, display: 'flex', flexDirection: 'column', gap: 1.5, overflow: 'auto' }}>
      <Typography variant="h2">Draw a new dataset</Typography>
      <TextField
        autoFocus
        size="small"
        label="Name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        helperText={
          isNamed
            ? path === null
              ? 'Looking where it will stand…'
              : path === working
                ? `Table ${stem} in ${path}`
                : path
            : 'It becomes the name of the file or table.'
        }
      />
      <ToggleButtonGroup exclusive size="small" value={kind} aria-label="Shapes" onChange={(_, v: DrawnKind | null) => v && setKind(v)}>
        {DRAWN_KINDS.map((k) => (
          <ToggleButton key={k} value={k}>
            {KIND_WORDS[k]}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <TextField select size="small" label="Written as" value={format} onChange={(e) => setFormat(e.target.value as NewFormat)}>
        {Object.entries(FORMAT_WORDS).map(([f, words]) => (
          <MenuItem key={f} value={f}>
            {words}
          </MenuItem>
        ))}
      </TextField>
      <FieldList fields={fields} twice={twice} onChange={setFields} />
      <Typography variant="body2" color="text.secondary">
        {format === 'geojson'
          ? 'GeoJSON stands in degrees of WGS 84 (RFC 7946), whatever the map is in.'
          : `Its CRS is that of the map, ${crs}.`}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button
          variant="contained"
          disabled={!ok || path === null}
          onClick={() =>
            path !== null && onStart({ format, at: inRoot(project, path), table: format === 'geopackage' ? stem : '', kind, fields })
          }
        >
          Start drawing
        </Button>
        <Button onClick={onClose}>Cancel</Button>
      </Box>
    </Box>
  );
}

interface FieldListProps {
  readonly fields: readonly NewField[];
  /** One that has the name of another. */
  readonly twice: NewField | undefined;
  readonly onChange: (fields: readonly NewField[]) => void;
}

const FieldList = ({ fields, twice, onChange }: FieldListProps) => (
  <Box role="group" aria-label="Fields" sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
    {fields.map((f, i) => (
      <Box key={i} sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <TextField
          size="small"
          label={`Field ${i + 1}`}
          value={f.name}
          error={twice === f}
          onChange={(e) => onChange(fields.map((o, k) => (k === i ? { ...o, name: e.target.value } : o)))}
          sx={{ flex: 1 }}
        />
        <FieldTypeChoice value={f.type} onChange={(type) => onChange(fields.map((o, k) => (k === i ? { ...o, type } : o)))} />
        <IconButton size="small" aria-label={`Leave out field ${f.name}`} onClick={() => onChange(fields.filter((_, k) => k !== i))}>
          <Icon path={mdiClose} />
        </IconButton>
      </Box>
    ))}
    <Button sx={{ alignSelf: 'flex-start' }} onClick={() => onChange([...fields, { name: '', type: 'text' }])}>
      Add a field
    </Button>
  </Box>
);

export const FieldTypeChoice = ({ value, onChange }: { value: NewField['type']; onChange: (type: NewField['type']) => void }) => (
  <TextField
    select
    size="small"
    label="Holds"
    value={value}
    onChange={(e) => onChange(e.target.value as NewField['type'])}
    sx={{ width: 130 }}
  >
    {NEW_FIELD_TYPES.map((t) => (
      <MenuItem key={t} value={t}>
        {{ text: 'text', integer: 'whole numbers', real: 'numbers', boolean: 'yes or no', date: 'dates' }[t]}
      </MenuItem>
    ))}
  </TextField>
);
