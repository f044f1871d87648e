import { TextField } from '@mui/material';
import { useState } from 'react';
import { proposeName, splitName } from '@rootmap/core';
import type { EditRequest, FoldersView } from '@rootmap/core/contract';
import { useOpenProject } from '../frame/use-project.js';
import { EditDialog } from './edit-dialog.js';
import { nameOf } from './folder-rows.js';
import { inRoot } from './moves.js';
import { useSettled } from './use-edit.js';

/** A copy to work on: of an original in the first working folder, of other things beside them. */
export function CopyDialog({
  projectKey,
  view,
  path,
  isOriginal,
  onClose,
}: {
  projectKey: string;
  view: FoldersView;
  path: string;
  isOriginal: boolean;
  onClose: () => void;
}) {
  const project = useOpenProject();
  const [to, setTo] = useState(() => suggested(view, path, isOriginal));
  const target = useSettled(to.trim());
  const edit: EditRequest | null =
    target === '' || target === path ? null : { kind: 'copy', from: inRoot(project, path), to: inRoot(project, target) };
  return (
    <EditDialog
      projectKey={projectKey}
      title={isOriginal ? `Make a working copy of ${nameOf(path)}` : `Duplicate ${nameOf(path)}`}
      edit={edit}
      button={isOriginal ? 'Make the copy' : 'Duplicate'}
      isSettling={target !== to.trim()}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        label="Copy, from the root"
        value={to}
        onChange={(e) => setTo(e.target.value)}
        helperText="The copy can be edited; what it was copied from stays as it is, and maps go on using it."
        slotProps={{ htmlInput: { className: 'mono' } }}
        sx={{ mt: 1, mb: 1.5 }}
      />
    </EditDialog>
  );
}

function suggested(view: FoldersView, path: string, isOriginal: boolean): string {
  const working = Object.entries(view.roles).find(([, role]) => role === 'working')?.[0];
  const own = path.slice(0, Math.max(0, path.lastIndexOf('/')));
  const folder = isOriginal && working ? working : own;
  const taken = new Set(
    view.things
      .filter((t) => t.path.slice(0, Math.max(0, t.path.lastIndexOf('/'))) === folder)
      .map((t) => splitName(nameOf(t.path)).stem.toLowerCase()),
  );
  const { stem, ending } = splitName(nameOf(path));
  const name = proposeName(stem, view.naming, (lower) => taken.has(lower)) + ending;
  return folder === '' ? name : `${folder}/${name}`;
}
