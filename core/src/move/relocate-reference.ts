import { normalName } from '../address/address.js';
import { placeNamed, type Location, type Place } from '../address/place.js';
import { parseReference, type Reference } from '../address/reference.js';
import { storeReference } from '../address/store-reference.js';
import { resolveIn } from '../address/resolve-in.js';
import type { MapReference } from '../map/map-file.js';

/** Tells where a location is after all that moves has moved; the same object where nothing moves it. */
export interface Moves {
  of(location: Location): Location;
}

/** One reference in a file, after the file or its target has moved; null: it stays as it is written. */
export function rewrite(
  map: Location,
  mapAfter: Location,
  reference: Pick<MapReference, 'href'>,
  moves: Moves,
  places: readonly Place[],
  actual: (location: Location) => Location,
): { href: string; target: Location } | null {
  const parsed = parseReference(reference.href);
  if (!parsed.ok || parsed.value.kind === 'service') return null;
  const target = where(map, parsed.value, places);
  if (!target) return null;
  const after = moveTarget(target, moves, actual);
  if (after === target && mapAfter === map) return null;
  const reached = where(mapAfter, parsed.value, places);
  if (reached && isSame(reached, after, places)) return null;
  const { href } = storeReference(mapAfter, after, parsed.value.fragment, parsed.value.kind, places);
  return { href, target: after };
}

/** A reference that no move of its own path touches may still reach what moves: through a link, or in other letters. */
function moveTarget(target: Location, moves: Moves, actual: (location: Location) => Location): Location {
  const direct = moves.of(target);
  if (direct !== target) return direct;
  const real = actual(target);
  const moved = moves.of(real);
  return moved === real ? target : moved;
}

function where(map: Location, reference: Exclude<Reference, { kind: 'service' }>, places: readonly Place[]): Location | null {
  const found = resolveIn(map, reference, places);
  return found === 'above-root' || 'flavour' in found ? null : found;
}

/** Exactly the same: another spelling is another path, so that a rename in letters only is written down, too. */
const isSame = (a: Location, b: Location, places: readonly Place[]): boolean =>
  a.place === b.place &&
  a.segments.length === b.segments.length &&
  a.segments.every((s, i) => normalName(s) === normalName(b.segments[i]!)) &&
  placeNamed(places, a.place) !== undefined;
