import type { ChangedFileView, ChangeView } from '@rootmap/core/contract';
import type { ChangeRecord, StepRecord } from '../changes/change.js';

const MOST_FILES = 500;

/** A change as people read it. `redo`: the change by which it was undone, and whose undoing does it again. */
export const viewChange = (c: ChangeRecord, most = MOST_FILES, redo: string | null = null): ChangeView => ({
  id: c.id,
  title: c.title,
  kind: c.kind,
  who: c.who,
  createdMs: c.createdMs,
  state: c.state,
  isWaiting: false,
  note: c.note,
  files: c.steps.slice(0, most).map((s) => s.path),
  fileCount: c.steps.length,
  canUndo: c.state === 'done' && c.undoes === null && c.steps.length > 0,
  redo,
});

const DID: Readonly<Record<StepRecord['kind'], ChangedFileView['did']>> = {
  write: 'written',
  install: 'made',
  copy: 'copied',
  move: 'moved',
  trash: 'trashed',
  folder: 'folder made',
  'drop-folder': 'folder removed',
  mode: 'bits set',
};

/** @param shown a real path as people know it */
export const viewStep = (step: StepRecord, shown: (path: string) => string): ChangedFileView => ({
  path: shown(step.path),
  did: step.kind === 'write' && step.beforeHash === null ? 'made' : DID[step.kind],
  from: step.kind === 'move' || step.kind === 'copy' ? shown(step.source) : null,
});
