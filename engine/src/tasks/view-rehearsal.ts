import { absoluteAddress, byCodePoint, locationKey, placeNamed, printAddress, type LayerState } from '@rootmap/core';
import type { RehearsalView, RehearsedView } from '@rootmap/core/contract';
import { basename, pathFrom } from '../disk/native-path.js';
import type { Scope } from '../project/scope.js';
import type { RehearsedLayer, Rehearsal } from '../rehearsal/rehearse.js';

/** What is lost first, then what is not what it was, then what only waits for its place. */
const WORST: readonly LayerState[] = ['adrift', 'unreadable', 'incomplete', 'different', 'absent', 'not-asked', 'sound'];

/** A rehearsal as people read it, the worst first. */
export function viewRehearsal({ layers, broken, damaged, scenario }: Rehearsal, scope: Scope): RehearsalView {
  const rows = layers.map((l) => viewLayer(l, scope, scenario.places));
  const rank = (r: RehearsedView): number => (r.isBroken ? 0 : r.lostStyle === null ? 100 : 50) + WORST.indexOf(r.after);
  return {
    layers: rows.sort((a, b) => rank(a) - rank(b) || byCodePoint(a.map, b.map) || byCodePoint(a.title, b.title)),
    broken,
    sound: rows.filter((r) => r.after === 'sound').length,
    damaged,
  };
}

function viewLayer(
  { map, layer, title, before, after, fix, isBroken, lostStyle }: RehearsedLayer,
  scope: Scope,
  places: Scope['places'],
): RehearsedView {
  const reference = map.file.layers.find((l) => l.id === layer)?.reference?.href ?? null;
  const place = after.location && placeNamed(places, after.location.place);
  return {
    key: `${locationKey(map.location)}\n${layer}`,
    map: pathFrom(scope.root!, map.path),
    mapTitle: map.file.title || basename(map.path),
    layer,
    title,
    href: reference,
    stored: before.stored,
    reach: before.reach,
    before: before.state,
    after: after.state,
    reason: after.reason ?? null,
    detail: after.detail ?? null,
    leadsTo: after.foreign
      ? printAddress(after.foreign)
      : after.location && place
        ? printAddress(absoluteAddress(after.location, places))
        : after.resolved,
    isBroken,
    fix,
    lostStyle,
  };
}
