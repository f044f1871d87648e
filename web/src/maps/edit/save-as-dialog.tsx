import { TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { MAP_ENDING } from '@rootmap/core';
import { FormDialog } from '../../parts/form-dialog.js';

interface Props {
  readonly path: string;
  readonly onSave: (name: string) => void;
  readonly onClose: () => void;
}

/** The map as it is here, unsaved changes included, in a file of another name beside it. */
export function SaveAsDialog({ path, onSave, onClose }: Props) {
  const file = path.slice(path.lastIndexOf('/') + 1);
  const [name, setName] = useState(`${file.slice(0, -MAP_ENDING.length)}_2`);
  const isName = name.trim() !== '' && !name.includes('/');
  return (
    <FormDialog
      title="Save under another name"
      confirm="Save and open it"
      disabled={!isName}
      onConfirm={() => (onSave(name.trim()), onClose())}
      onClose={onClose}
    >
      <Typography sx={{ mb: 1.5 }}>
        What you see here, with all that is unsaved, becomes a map of its own beside {file}. That file stays as it is on disk.
      </Typography>
      <TextField
        autoFocus
        fullWidth
        label="Name of the file"
        value={name}
        onChange={(e) => setName(e.target.value)}
        slotProps={{ htmlInput: { className: 'mono' }, input: { endAdornment: <span className="mono">{MAP_ENDING}</span> } }}
      />
    </FormDialog>
  );
}
