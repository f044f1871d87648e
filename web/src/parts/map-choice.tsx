import { MenuItem, TextField } from '@mui/material';
import type { ProjectView } from '@rootmap/core/contract';
import { many } from './format.js';

/** Stands for a map that is made. */
export const NEW_MAP = '';

interface Props {
  readonly maps: ProjectView['maps'];
  /** Path from the root, or `NEW_MAP`. */
  readonly map: string;
  readonly onMap: (map: string) => void;
  readonly title: string;
  readonly onTitle: (title: string) => void;
  /** What a new one is called in the list. */
  readonly newLabel: string;
}

/** A map that is there, or a new one with its title. */
export const MapChoice = ({ maps, map, onMap, title, onTitle, newLabel }: Props) => (
  <>
    <TextField
      select
      fullWidth
      label="Map"
      value={map}
      onChange={(e) => onMap(e.target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      sx={{ mt: 1, mb: 1.5 }}
    >
      <MenuItem value={NEW_MAP}>{newLabel}</MenuItem>
      {maps.map((m) => (
        <MenuItem key={m.relativePath} value={m.relativePath}>
          {m.title} ({many(m.layers.length, 'layer')})
        </MenuItem>
      ))}
    </TextField>
    {map === NEW_MAP && <TextField fullWidth label="Its title" value={title} onChange={(e) => onTitle(e.target.value)} sx={{ mb: 1.5 }} />}
  </>
);
