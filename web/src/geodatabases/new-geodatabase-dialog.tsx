import { TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { DEFAULT_NAMING, proposeName } from '@rootmap/core';
import type { ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { inRoot } from '../folders/moves.js';
import { tellDone } from '../journal/tell-done.js';
import { nameHelp } from '../parts/name-help.js';
import { ErrorState } from '../parts/states.js';
import { FormDialog } from '../parts/form-dialog.js';

const ENDING = '.gpkg';

interface Props {
  readonly project: ProjectView;
  readonly onClose: () => void;
  readonly onMade: (path: string) => void;
}

/** An empty geodatabase in the project, named after it at first; the ending stays. */
export function NewGeodatabaseDialog({ project, onClose, onMade }: Props) {
  const [name, setName] = useState(() => proposeName(project.title.toLowerCase(), DEFAULT_NAMING));
  const [folder, setFolder] = useState('geodatabases');
  const stem = name.replace(/\.gpkg$/i, '').trim();
  const path = `${folder.trim() === '' ? '' : `${folder.trim()}/`}${stem}${ENDING}`;
  const make = useMutation({
    mutationFn: () => api.makeGeodatabase(project.key, { at: inRoot(project, path), crs: project.crs }),
    onSuccess: ({ change }) => {
      tellDone(`${stem}${ENDING} is there.`, change);
      onMade(path);
      onClose();
    },
  });
  return (
    <FormDialog
      title="Make a geodatabase"
      confirm="Make it"
      disabled={stem === '' || make.isPending}
      maxWidth="sm"
      onConfirm={() => make.mutate()}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        label="Name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        helperText={nameHelp(stem)}
        slotProps={{ htmlInput: { className: 'mono' } }}
        sx={{ mt: 1, mb: 1.5 }}
      />
      <TextField
        fullWidth
        label="Folder"
        value={folder}
        onChange={(e) => setFolder(e.target.value)}
        slotProps={{ htmlInput: { className: 'mono' } }}
        sx={{ mb: 1 }}
      />
      <Typography variant="body2">
        <span className="mono">{path}</span>
        {project.crs ? `, made for ${project.crs}` : ''}
      </Typography>
      {make.isError && <ErrorState error={make.error} />}
    </FormDialog>
  );
}
