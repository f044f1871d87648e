import { parseMapFile, placeNamed, type Found, type Location, isInOrder } from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import type { PlannedStep } from '../changes/change.js';
import { isInTrash } from '../changes/path-steps.js';
import { StepsAhead } from '../changes/steps-ahead.js';
import { pathOf } from '../places/places.js';
import { judgeMap, readMap, surroundingsOf, type MapSeen } from '../project/read-maps.js';
import { locationOf, type Scope } from '../project/scope.js';
import { Looker, lookKey } from '../survey/look.js';

export interface LayerLost {
  readonly map: string;
  readonly layer: string;
}

/**
 * Layers that are sound now and would not be once the steps of an undo are done: judged by the function that judges them now, in
 * the world as it would be. What comes out of the trash in the place of something is taken to be as good as that.
 */
export function layersLostAfter(scope: Scope, steps: readonly PlannedStep[]): LayerLost[] {
  const looker = new Looker(scope.places);
  const now = surroundingsOf(scope, looker);
  const ahead = new StepsAhead();
  ahead.add(steps);
  const root = scope.root === null ? null : ahead.goal(scope.root);
  const then = {
    ...now,
    root: root === null ? null : locationOf(root, scope.places),
    look: onceEach((location, table) => lookThen(location, table, { looker, scope, ahead })),
  };
  return scope.maps.flatMap((path) => {
    const after = mapThen(path, ahead);
    if (after === null) return [];
    const unsound = new Set(
      judgeMap(after.path, after.bytes, after.file, then).layers.flatMap((l) => (isInOrder(l.judgement.state) ? [] : [l.layer.id])),
    );
    if (unsound.size === 0) return []; // what it is now does not matter
    const read = readMap(path);
    if (!read.ok) return [];
    const { bytes, file } = read.value;
    return judgeMap(path, bytes, file, now).layers.flatMap(({ layer, judgement }) =>
      judgement.state === 'sound' && unsound.has(layer.id) ? [{ map: file.title || basename(path), layer: layer.title }] : [],
    );
  });
}

/** The map at a path now as it would be; null: it goes, or cannot be read then. */
function mapThen(now: string, ahead: StepsAhead): Pick<MapSeen, 'path' | 'bytes' | 'file'> | null {
  const path = ahead.goal(now);
  if (path === null) return null;
  const origin = ahead.origin(path);
  if (origin.kind !== 'bytes') {
    const read = readMap(now);
    return read.ok ? { path, ...read.value } : null;
  }
  const bytes = Buffer.from(origin.bytes);
  const file = parseMapFile(path, bytes.toString('utf8'));
  return file.ok ? { path, bytes, file: file.value } : null;
}

type Look = (location: Location, table: string | null) => Found;

/** Many layers draw on one dataset: it is looked at once. */
function onceEach(look: Look): Look {
  const seen = new Map<string, Found>();
  return (location, table) => {
    const key = lookKey(location, table);
    const found = seen.get(key) ?? look(location, table);
    seen.set(key, found);
    return found;
  };
}

interface Then {
  readonly looker: Looker;
  readonly scope: Scope;
  readonly ahead: StepsAhead;
}

function lookThen(location: Location, table: string | null, { looker, scope, ahead }: Then): Found {
  const place = placeNamed(scope.places, location.place);
  if (!place) return { kind: 'nothing' };
  const now = looker.look(location, table).found;
  const spelled = now.kind === 'dataset' && now.spelled ? now.spelled : location.segments;
  const path = join(pathOf(place), ...spelled);
  const origin = ahead.origin(path);
  if (!('path' in origin)) return { kind: 'nothing' };
  if (origin.path === path) return withCompanions(location, table, path, { looker, scope, ahead });
  if (isInTrash(origin.path)) return now;
  const looked = withCompanions(locationOf(origin.path, scope.places), table, path, { looker, scope, ahead });
  return looked.kind === 'dataset' ? { ...looked, spelled: null } : looked;
}

/** What stands at `from` now, if all of its files are beside `path` then. */
function withCompanions(from: Location, table: string | null, path: string, { looker, ahead }: Then): Found {
  const { found, dataset, folder } = looker.look(from, table);
  if (found.kind !== 'dataset' || !dataset || folder === null) return found;
  const lost = dataset.group.companions.find((f) => {
    const goal = ahead.goal(join(folder, f.path));
    return goal === null || dirname(goal) !== dirname(path);
  });
  return lost ? { ...found, incomplete: `${basename(lost.path)} goes` } : found;
}
