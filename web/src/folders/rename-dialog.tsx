import { Box, Button, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { breachesOf, fillPattern, patternFault, proposeName, splitName, type NamingRules } from '@rootmap/core';
import type { EditRequest } from '@rootmap/core/contract';
import { useOpenProject } from '../frame/use-project.js';
import { NameTargets } from '../parts/name-targets.js';
import { EditDialog } from './edit-dialog.js';
import { nameOf } from './folder-rows.js';
import { inRoot } from './moves.js';
import { useSettled } from './use-edit.js';

interface Props {
  readonly projectKey: string;
  readonly path: string;
  readonly isFolder: boolean;
  readonly naming: NamingRules;
  readonly onClose: () => void;
}

/** One thing gets another name: its rules are told as it is typed, and below stands what follows. */
export function RenameDialog({ projectKey, path, isFolder, naming, onClose }: Props) {
  const project = useOpenProject();
  const { stem, ending } = isFolder ? { stem: nameOf(path), ending: '' } : splitName(nameOf(path));
  const [name, setName] = useState(stem);
  const typed = useSettled(name.trim());
  const folder = path.slice(0, path.length - nameOf(path).length);
  const edit: EditRequest | null =
    typed === '' || typed === stem
      ? null
      : {
          kind: 'move',
          moves: [{ from: inRoot(project, path), to: inRoot(project, folder + typed + ending) }],
          evenOriginals: false,
          grown: null,
        };
  const breaches = breachesOf(name.trim(), naming);
  const proposed = proposeName(name.trim(), naming);
  const byPattern = patternName(naming, stem);
  return (
    <EditDialog
      projectKey={projectKey}
      title={`Rename ${nameOf(path)}`}
      edit={edit}
      button="Rename"
      isSettling={typed !== name.trim()}
      onClose={onClose}
    >
      <TextField
        autoFocus
        fullWidth
        label="New name"
        value={name}
        onChange={(e) => setName(e.target.value)}
        slotProps={{ htmlInput: { className: 'mono' }, input: { endAdornment: <span className="mono">{ending}</span> } }}
        sx={{ mt: 1 }}
      />
      <Typography variant="body2" sx={{ minHeight: 40, py: 0.75, color: breaches.length ? 'var(--ochre)' : 'var(--spruce)' }}>
        {breaches.length
          ? `Against the rules of this project: ${breaches.map((b) => b.message).join('; ')}. `
          : 'The name keeps the rules of this project.'}
        {breaches.length > 0 && proposed !== name.trim() && <Button onClick={() => setName(proposed)}>Take {proposed}</Button>}
        {byPattern !== null && byPattern !== name.trim() && <Button onClick={() => setName(byPattern)}>By the pattern: {byPattern}</Button>}
      </Typography>
      <Box sx={{ mb: 1 }}>
        <NameTargets sort={isFolder ? 'folder' : ending.toLowerCase() === '.gpkg' ? 'container' : 'file'} name={name.trim()} />
      </Box>
    </EditDialog>
  );
}

/** The name as the project's pattern has it, with the old name as its topic. Null: there is no pattern. */
function patternName(naming: NamingRules, topic: string): string | null {
  if (naming.pattern === null || patternFault(naming.pattern) !== null) return null;
  return fillPattern(naming, { topic }, new Date().getFullYear(), () => false);
}
