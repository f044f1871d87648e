import { MenuItem, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import type { MapWorking, ProjectView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';

interface Props {
  readonly project: ProjectView;
  /** The geodatabase, from the root. */
  readonly path: string;
  readonly maps: readonly MapWorking[];
  /** The project works in it already. */
  readonly isProjects: boolean;
  readonly onClose: () => void;
}

/** No path of a map. */
const PROJECT = ' ';

/** Who works in a geodatabase: the whole project, or one map of it. */
export function WorkingDialog({ project, path, maps, isProjects, onClose }: Props) {
  const [map, setMap] = useState(isProjects ? (maps[0]?.map ?? PROJECT) : PROJECT);
  return (
    <EditDialog
      projectKey={project.key}
      title="Which is the working geodatabase?"
      edit={{ kind: 'working-geodatabase', path, map: map === PROJECT ? null : map }}
      button="Work in it"
      onClose={onClose}
    >
      <Typography sx={{ mb: 1.5 }}>
        Results and copies are proposed to go to <span className="mono">{path}</span>. It is written down as a relative path, which follows
        when the geodatabase moves.
      </Typography>
      <TextField select label="Who works in it" value={map} onChange={(e) => setMap(e.target.value)} sx={{ width: 360, mb: 1 }}>
        <MenuItem value={PROJECT}>the whole project</MenuItem>
        {maps.map((m) => (
          <MenuItem key={m.map} value={m.map}>
            only the map {m.title}
          </MenuItem>
        ))}
      </TextField>
    </EditDialog>
  );
}
