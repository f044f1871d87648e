import { isBelow, type Location, type Shift, type Trail } from '@rootmap/core';
import { isThere, linkLocations, type Scope } from '../project/scope.js';

/** One thing to say instead of rewriting every map: what a drive is called now, or where a link leads. */
export type Redirect =
  | { readonly kind: 'drive'; readonly drive: string; readonly place: string }
  | { readonly kind: 'link'; readonly name: string; readonly folder: Location };

/**
 * Whether a shift is one of a whole drive, or of a linked folder that is gone. A drive name can only stand for a place as a
 * whole, so what both sides have in common at their ends is left away first.
 */
export function redirectOf(shift: Shift, scope: Scope): Redirect | null {
  if (shift.kind !== 'folder') return null;
  const [from, to] = withoutSharedEnd(shift.from, shift.to);
  if (!scope.places.some((p) => p.name === to.space)) return null;
  const drive = driveOf(from);
  if (drive !== null) return from.segments.length === 0 && to.segments.length === 0 ? { kind: 'drive', drive, place: to.space } : null;
  return linkRedirect(shift, scope);
}

function withoutSharedEnd(from: Trail, to: Trail): [Trail, Trail] {
  let n = 0;
  while (n < from.segments.length && n < to.segments.length && from.segments.at(-1 - n) === to.segments.at(-1 - n)) n++;
  const cut = (t: Trail): Trail => ({ space: t.space, segments: t.segments.slice(0, t.segments.length - n) });
  return [cut(from), cut(to)];
}

/** `F:` or `\\server\share` as Places has it; null: the space is none of another machine. */
const driveOf = ({ space }: Trail): string | null =>
  /^[A-Za-z]:\/?$/.test(space) ? space.slice(0, 2) : space.startsWith('//') ? space.replace(/\/$/, '').replaceAll('/', '\\') : null;

/** A link at or below what moved, gone there and standing where the shift leads. */
function linkRedirect({ from, to }: Shift, scope: Scope): Redirect | null {
  const moved: Location = { place: from.space, segments: from.segments };
  for (const { name, location } of linkLocations(scope)) {
    const folder: Location | null = isBelow(moved, location, scope.places)
      ? { place: to.space, segments: [...to.segments, ...location.segments.slice(from.segments.length)] }
      : null;
    if (folder && !isThere(location, scope.places) && isThere(folder, scope.places)) return { kind: 'link', name, folder };
  }
  return null;
}
