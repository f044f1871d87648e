import type { ChangeView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';

export interface Undone {
  /** Files that were changed since and stay as they are. */
  readonly kept: readonly string[];
  readonly change: ChangeView | null;
}

const MOST_NAMED = 3;

/** What an undo did, from what it gave: never more than that. */
export function undoSentence({ kept, change }: Undone): string {
  const named = kept.slice(0, MOST_NAMED).join(', ') + (kept.length > MOST_NAMED ? `, and ${kept.length - MOST_NAMED} more` : '');
  if (change === null)
    return kept.length > 0
      ? `Nothing was undone: ${many(kept.length, 'file was', 'files were')} changed since (${named}).`
      : 'There was nothing to undo.';
  if (kept.length === 0) return 'Undone. Every file is as it was before.';
  return `Undone, but for ${many(kept.length, 'file that was', 'files that were')} changed since and ${kept.length === 1 ? 'stays' : 'stay'}: ${named}.`;
}
