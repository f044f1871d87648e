import { fold } from './names.js';
import type { Trail } from './types.js';

/** Equal for paths that are one but for case and normalisation. */
export const trailKey = (t: Trail): string => `${t.space}\n${foldedOf(t.segments).join('/')}`;

/** Paths are compared many times; each is folded once. */
const folded = new WeakMap<readonly string[], readonly string[]>();
export function foldedOf(segments: readonly string[]): readonly string[] {
  let known = folded.get(segments);
  if (!known) folded.set(segments, (known = segments.map(fold)));
  return known;
}

/** The key of what a trail below `from` would be below `to`, without making that trail; null where it is not below `from`. */
export function shiftedKey(trail: Trail, from: Trail, to: Trail): string | null {
  if (trail.space !== from.space || trail.segments.length < from.segments.length) return null;
  const [a, b] = [foldedOf(trail.segments), foldedOf(from.segments)];
  for (let i = 0; i < b.length; i++) if (a[i] !== b[i]) return null;
  let key = trailKey(to);
  for (let i = b.length; i < a.length; i++) key += i === b.length && to.segments.length === 0 ? a[i] : `/${a[i]}`;
  return key;
}
