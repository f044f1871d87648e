import { MenuItem, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import type { EditRequest, ProjectView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { useSettled } from '../folders/use-edit.js';
import { api } from '../api/client.js';
import { distortionWords } from '../maps/edit/crs-card.js';
import { many } from '../parts/format.js';
import { keys } from '../api/queries.js';

const NEW = '';

/** Datasets become layers of a map that is there, or of a new one. */
export function MapDialog({
  project,
  ids,
  names,
  onClose,
}: {
  project: ProjectView;
  ids: readonly string[];
  names: readonly string[];
  onClose: () => void;
}) {
  const [map, setMap] = useState(project.maps[0]?.relativePath ?? NEW);
  const [title, setTitle] = useState(project.title);
  const navigate = useNavigate();
  const asked = useMemo((): EditRequest | null => {
    if (map === NEW && title.trim() === '') return null;
    return { kind: 'add-to-map', datasets: ids, map: map === NEW ? null : map, title: map === NEW ? title : '' };
  }, [map, title, ids]);
  const edit = useSettled(asked);
  const advice = useQuery({
    queryKey: keys.of(project.key, 'crs-advice', ids),
    queryFn: () => api.crsAdvice(project.key, ids),
    enabled: map === NEW,
  });
  const proposed = advice.data?.proposed;
  const things = ids.length === 1 ? names[0]! : many(ids.length, 'dataset');
  return (
    <EditDialog
      projectKey={project.key}
      title={`Add ${things} to a map`}
      edit={edit}
      isSettling={edit !== asked}
      button={map === NEW ? 'Make the map' : `Add ${ids.length === 1 ? 'a layer' : many(ids.length, 'layer')}`}
      onClose={onClose}
      onDone={({ map: made }) => void navigate(made ? `../maps/edit?map=${encodeURIComponent(made)}` : '../maps', { relative: 'path' })}
    >
      <TextField
        select
        fullWidth
        label="Map"
        value={map}
        onChange={(e) => setMap(e.target.value)}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        sx={{ mt: 1, mb: 1.5 }}
      >
        <MenuItem value={NEW}>A new map</MenuItem>
        {project.maps.map((m) => (
          <MenuItem key={m.relativePath} value={m.relativePath}>
            {m.title}
          </MenuItem>
        ))}
      </TextField>
      {map === NEW && <TextField fullWidth label="Its title" value={title} onChange={(e) => setTitle(e.target.value)} sx={{ mb: 1.5 }} />}
      {map === NEW && proposed && (
        <Typography variant="body2" sx={{ mb: 1.5 }}>
          It is drawn in {proposed.crs.name} ({proposed.crs.code}). {proposed.why}{' '}
          {distortionWords(proposed.lengthPerMille, proposed.crs.unit)}
        </Typography>
      )}
    </EditDialog>
  );
}
