import type { StaysView, UndoneView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';

const MOST_NAMED = 3;

const named = (kept: readonly StaysView[]): string =>
  kept
    .slice(0, MOST_NAMED)
    .map((k) => `${k.path} (${k.why})`)
    .join(', ') + (kept.length > MOST_NAMED ? `, and ${kept.length - MOST_NAMED} more` : '');

/** What an undo did, from what it gave: never more than that. */
export function undoSentence({ change, isRedo, changes, back, kept }: UndoneView): string {
  if (change === null) return kept.length > 0 ? `Nothing was undone. It stays as it is: ${named(kept)}.` : 'There was nothing to undo.';
  const what = `${many(back, 'file or folder', 'files and folders')}${changes > 1 ? ` of ${many(changes, 'change')}` : ''}`;
  const done = isRedo ? `Done again: ${what}.` : `Undone: ${what} put back.`;
  return kept.length === 0 ? done : `${done} ${many(kept.length, 'stays as it is', 'stay as they are')}: ${named(kept)}.`;
}
