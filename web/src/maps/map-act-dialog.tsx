import { TextField } from '@mui/material';
import { useState } from 'react';
import { MAP_ENDING } from '@rootmap/core';
import type { EditRequest, MapView, ProjectView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { inRoot, trash } from '../folders/moves.js';
import { useSettled } from '../folders/use-edit.js';

/** A map's file gets another name, a copy, or goes to the trash. Its references follow. */
export function MapActDialog({
  project,
  map,
  act,
  onClose,
}: {
  project: ProjectView;
  map: MapView;
  act: 'rename' | 'duplicate' | 'trash';
  onClose: () => void;
}) {
  const at = map.relativePath.lastIndexOf('/') + 1;
  const stem = map.relativePath.slice(at).replace(/\.owc\.json$/i, '');
  const [name, setName] = useState(act === 'duplicate' ? `${stem}_2` : stem);
  const target = inRoot(project, `${map.relativePath.slice(0, at)}${name.trim()}${MAP_ENDING}`);
  const from = inRoot(project, map.relativePath);
  const asked: EditRequest | null =
    act === 'trash'
      ? trash(project, [map.relativePath])
      : name.trim() === '' || name.includes('/') || (act === 'rename' && name.trim() === stem)
        ? null
        : act === 'rename'
          ? { kind: 'move', moves: [{ from, to: target }], evenOriginals: false, grown: null }
          : { kind: 'copy', from, to: target };
  const edit = useSettled(asked);
  return (
    <EditDialog
      projectKey={project.key}
      title={
        act === 'trash'
          ? `Remove ${map.title} to the trash`
          : act === 'rename'
            ? `Rename the file of ${map.title}`
            : `Duplicate ${map.title}`
      }
      edit={edit}
      isSettling={JSON.stringify(edit) !== JSON.stringify(asked)}
      button={act === 'trash' ? 'Remove it' : act === 'rename' ? 'Rename it' : 'Make the copy'}
      onClose={onClose}
    >
      {act !== 'trash' && (
        <TextField
          autoFocus
          fullWidth
          label="Name of the file"
          value={name}
          onChange={(e) => setName(e.target.value)}
          sx={{ mt: 1, mb: 1.5 }}
          slotProps={{ htmlInput: { className: 'mono' }, input: { endAdornment: <span className="mono">{MAP_ENDING}</span> } }}
        />
      )}
    </EditDialog>
  );
}
