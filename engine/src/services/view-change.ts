import type { ChangeView } from '@rootmap/core/contract';
import type { ChangeRecord } from '../changes/change.js';

export const viewChange = (c: ChangeRecord): ChangeView => ({
  id: c.id,
  title: c.title,
  kind: c.kind,
  who: c.who,
  createdMs: c.createdMs,
  state: c.state,
  isWaiting: false,
  note: c.note,
  files: c.steps.map((s) => s.path),
  canUndo: c.state === 'done' && c.kind !== 'undo' && c.steps.length > 0,
});
