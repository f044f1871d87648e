import { isInOrder } from '../map/layer-state.js';
import type { Judgement } from '../map/judge-layer.js';

/** What would keep a layer sound: written before the move. */
export type Fix = 'relative' | 'bring-in' | 'respell' | 'shorten';

/**
 * The fix for a layer that is sound now and would not be then; null: there is none that is made in its reference.
 * @param isRelativePossible its data is below the root, or in the same place and comes along
 */
export function fixFor(before: Judgement, after: Judgement): Fix | null {
  if (!isInOrder(before.state) || isInOrder(after.state)) return null;
  if (after.reason === 'path-too-long') return 'shorten';
  if (before.reason === 'spelling') return 'respell';
  if (before.reach === 'inside') return before.stored === 'absolute' ? 'relative' : null;
  return before.reach === 'service' ? null : 'bring-in';
}
