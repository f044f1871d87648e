import { existsSync } from 'node:fs';
import {
  address,
  changedWorld,
  fixFor,
  judgeLayer,
  locate,
  locateHere,
  must,
  parseAddress,
  parseDriveName,
  parseReference,
  placeNamed,
  ProblemError,
  resolveIn,
  standsToday,
  WINDOWS_PATH_LIMIT,
  type Address,
  type Fix,
  type Judgement,
  type Location,
  type Place,
  type Scenario,
  isInOrder,
} from '@rootmap/core';
import { join, resolve, toAddress } from '../disk/native-path.js';
import { pathOfReference } from '../project/layer-styles.js';
import { pathOf } from '../places/places.js';
import { readMaps, type MapDamaged, type MapSeen } from '../project/read-maps.js';
import { linkLocations, locationOf, type RootedScope } from '../project/scope.js';

/** What is to be worked out, as a person says it. */
export interface RehearsalOrder {
  /** Where the root goes: a real path, or an address of another machine (`E:\work\study`); null: it stays. */
  readonly to: string | null;
  readonly isCopy: boolean;
  /** Only the root is there: it is opened on another machine. */
  readonly isElsewhere: boolean;
  /** Names of places that are taken away. */
  readonly without: readonly string[];
  /** Drive names that places have then. */
  readonly drives: readonly { readonly place: string; readonly names: readonly string[] }[];
  readonly isStrict: boolean;
  /** Only as many characters as Windows opens. */
  readonly hasPathLimit: boolean;
}
export const STAY: RehearsalOrder = {
  to: null,
  isCopy: false,
  isElsewhere: false,
  without: [],
  drives: [],
  isStrict: false,
  hasPathLimit: false,
};

export interface RehearsedLayer {
  readonly map: MapSeen;
  readonly layer: string;
  readonly title: string;
  readonly before: Judgement;
  readonly after: Judgement;
  readonly fix: Fix | null;
  /** Sound now, and not then. */
  readonly isBroken: boolean;
  /** A style in a file of its own that is there now and not then, as the map names it. */
  readonly lostStyle: string | null;
}
export interface Rehearsal {
  readonly layers: readonly RehearsedLayer[];
  readonly broken: number;
  readonly damaged: readonly MapDamaged[];
  readonly scenario: Scenario;
}

/** The state of every layer after something that is not done: the states are judged by the function that judges them now. */
export function rehearse(scope: RootedScope, order: RehearsalOrder): Rehearsal {
  const seen = readMaps(scope);
  const scenario = scenarioOf(scope, order);
  const after = changedWorld(seen.surroundings, scenario);
  const layers = seen.maps.flatMap((map) => {
    const there = movedLocation(map.location, scenario);
    return map.layers.map(({ layer, judgement: before }): RehearsedLayer => {
      const then = judgeLayer(there, layer, after);
      return {
        map,
        layer: layer.id,
        title: layer.title,
        before,
        after: then,
        fix: fixFor(before, then),
        isBroken: isInOrder(before.state) && !isInOrder(then.state),
        lostStyle: layer.others.find((r) => r.role === 'style' && isLost(r.href, map.location, there, scope, scenario))?.href ?? null,
      };
    });
  });
  return { layers, broken: layers.filter((l) => l.isBroken).length, damaged: seen.damaged, scenario };
}

/** A file that is there now, and that the reference does not lead to then. */
function isLost(href: string, map: Location, there: Location, scope: RootedScope, scenario: Scenario): boolean {
  const parsed = parseReference(href);
  const now = pathOfReference(href, map, scope);
  if (!parsed.ok || parsed.value.kind === 'service' || !now || !existsSync(now.path)) return false;
  const then = resolveIn(there, parsed.value, scenario.places);
  const isReached = then !== 'above-root' && !('flavour' in then) && placeNamed(scenario.places, then.place)?.present;
  const today = isReached ? standsToday(then, scenario, scope.places) : null;
  const place = today && placeNamed(scope.places, today.place);
  return !today || !place || !existsSync(join(pathOf(place), ...today.segments));
}

const movedLocation = (map: Location, { from, to }: Scenario): Location => {
  const isInside = map.place === from.place && from.segments.every((s, i) => map.segments[i] === s);
  return isInside ? { place: to.place, segments: [...to.segments, ...map.segments.slice(from.segments.length)] } : map;
};

/** Name of the place that stands for a machine that we do not know. */
const OTHER = 'the other machine';

function scenarioOf(scope: RootedScope, order: RehearsalOrder): Scenario {
  const from = locationOf(scope.root, scope.places);
  const places = scope.places.map((p): Place => {
    const drive = order.drives.find((d) => d.place === p.name);
    return { ...p, present: p.present && !order.without.includes(p.name), driveNames: drive ? drive.names.map(driveOf) : p.driveNames };
  });
  const unknown = [...order.without, ...order.drives.map((d) => d.place)].find((name) => !scope.places.some((p) => p.name === name));
  if (unknown !== undefined) throw new ProblemError({ code: 'not-found', what: 'place', id: unknown });
  const target = order.to === null ? null : targetOf(order.to, places, order.isElsewhere);
  const all = target?.added
    ? order.isElsewhere
      ? [target.added]
      : [...places, target.added]
    : order.isElsewhere
      ? places.filter((p) => p.name === (target?.to ?? from).place)
      : places;
  const to = target?.to ?? from;
  // Links by a relative path start at the new root; where that cannot be looked at, they are as they are now.
  const isOnDisk = order.to !== null && !target?.added;
  const linked = linkLocations(isOnDisk ? { ...scope, root: resolve(order.to), places } : { ...scope, places });
  return {
    places: all,
    from,
    to,
    isCopy: order.isCopy,
    isStrict: order.isStrict,
    longest: order.hasPathLimit ? WINDOWS_PATH_LIMIT - 1 : null,
    links: linked.map((l) => l.location),
    isElsewhere: order.isElsewhere,
  };
}

function driveOf(name: string): Address {
  const drive = parseDriveName(name);
  if (!drive)
    throw new ProblemError({
      code: 'wrong-use',
      message: `"${name}" is no drive name: write a letter with a colon (D:) or \\\\server\\share.`,
    });
  return drive;
}

/** A real path in one of the places, or an address that none claims: then a place is made up that has it. */
function targetOf(text: string, places: readonly Place[], isElsewhere: boolean): { to: Location; added: Place | null } {
  const parsed = must(parseAddress(/^[A-Za-z]:$/.test(text) ? `${text}/` : text));
  const known = isElsewhere ? null : parsed.flavour === 'posix' ? locateHere(toAddress(resolve(text)), places) : locate(parsed, places);
  if (known) return { to: known, added: null };
  const isPosix = parsed.flavour === 'posix';
  const driveNames = isPosix ? [] : [{ ...parsed, segments: [] }];
  const added: Place = {
    name: OTHER,
    root: address('posix', '/', isPosix ? [] : ['another-machine']),
    driveNames,
    present: true,
    ignoresCase: !isPosix,
    readOnly: false,
  };
  return { to: { place: OTHER, segments: parsed.segments }, added };
}
