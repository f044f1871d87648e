import { Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import type { EditRequest, ProjectView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { useSettled } from '../folders/use-edit.js';
import { api } from '../api/client.js';
import { distortionWords } from '../maps/edit/crs-card.js';
import { many } from '../parts/format.js';
import { MapChoice, NEW_MAP } from '../parts/map-choice.js';
import { keys } from '../api/queries.js';

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
  const [map, setMap] = useState(project.maps[0]?.relativePath ?? NEW_MAP);
  const [title, setTitle] = useState(project.title);
  const navigate = useNavigate();
  const asked = useMemo((): EditRequest | null => {
    if (map === NEW_MAP && title.trim() === '') return null;
    return { kind: 'add-to-map', datasets: ids, map: map === NEW_MAP ? null : map, title: map === NEW_MAP ? title : '' };
  }, [map, title, ids]);
  const edit = useSettled(asked);
  const advice = useQuery({
    queryKey: keys.of(project.key, 'crs-advice', ids),
    queryFn: () => api.crsAdvice(project.key, ids),
    enabled: map === NEW_MAP,
  });
  const proposed = advice.data?.proposed;
  const things = ids.length === 1 ? names[0]! : many(ids.length, 'dataset');
  return (
    <EditDialog
      projectKey={project.key}
      title={`Add ${things} to a map`}
      edit={edit}
      isSettling={edit !== asked}
      button={map === NEW_MAP ? 'Make the map' : `Add ${ids.length === 1 ? 'a layer' : many(ids.length, 'layer')}`}
      onClose={onClose}
      onDone={({ map: made }) => void navigate(made ? `../maps/edit?map=${encodeURIComponent(made)}` : '../maps', { relative: 'path' })}
    >
      <MapChoice maps={project.maps} map={map} onMap={setMap} title={title} onTitle={setTitle} newLabel="Start a map with it" />
      {map === NEW_MAP && proposed && (
        <Typography variant="body2" sx={{ mb: 1.5 }}>
          It is drawn in {proposed.crs.name} ({proposed.crs.code}). {proposed.why}{' '}
          {distortionWords(proposed.lengthPerMille, proposed.crs.unit)}
        </Typography>
      )}
    </EditDialog>
  );
}
