import type { EditPreview } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import type { PlannedChange } from '../changes/change.js';
import type { MovePlan } from '../move/plan-move.js';
import type { Scope } from '../project/scope.js';
import { shownPath } from '../project/shown-path.js';

/** More lines than anybody reads are not sent; the numbers tell the rest. */
const MOST_SHOWN = 500;

/** What every preview has, for an edit that changes nothing yet. */
export const emptyPreview = (title: string): EditPreview => ({
  title,
  files: 0,
  moved: [],
  folders: [],
  references: [],
  referenceCount: 0,
  maps: 0,
  added: [],
  mentioned: [],
  mentionedNames: [],
  usedBy: [],
  loosened: [],
  damaged: [],
  protectedPaths: [],
  records: [],
  copiedBytes: 0,
  isOldTrashed: false,
  trashedBytes: 0,
  kept: [],
  stagedBytes: 0,
  reading: null,
  changes: false,
});

/** A planned move as people read it. */
export function previewOfMove(plan: MovePlan, scope: Scope, mentioned: readonly string[] = []): EditPreview {
  const shown = (path: string): string => shownPath(path, scope);
  return {
    ...emptyPreview(plan.change.title),
    files: plan.files.length,
    moved: plan.files.slice(0, MOST_SHOWN).map((f) => ({ from: shown(f.from), to: shown(f.to) })),
    folders: foldersOf(plan.change, scope),
    references: referencesOf(plan, scope),
    referenceCount: plan.references.length,
    maps: new Set(plan.references.map((r) => r.map)).size,
    mentioned: mentioned.map(shown),
    damaged: plan.damaged.map((d) => ({ ...d, path: shown(d.path) })),
    records: plan.records.map(shown),
    copiedBytes: plan.copiedBytes,
    isOldTrashed: plan.copiedBytes > 0 && plan.change.steps.some((s) => s.kind === 'trash'),
    changes: plan.change.steps.length > 0,
  };
}

export const referencesOf = (plan: Pick<MovePlan, 'references'>, scope: Scope): EditPreview['references'] =>
  plan.references
    .slice(0, MOST_SHOWN)
    .map((r) => ({ map: basename(shownPath(r.map, scope)), title: r.title, before: r.before, after: r.after }));

export const foldersOf = (change: PlannedChange, scope: Scope): string[] =>
  change.steps.flatMap((s) => (s.kind === 'folder' ? [shownPath(s.path, scope)] : []));
