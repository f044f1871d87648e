import { basename, dirname, join } from 'node:path';
import { parseMapFile, placeNamed, type Found, type Location } from '@rootmap/core';
import type { PlannedStep } from '../changes/change.js';
import { isInTrash } from '../changes/path-steps.js';
import { StepsAhead } from '../changes/steps-ahead.js';
import { pathOf } from '../places/places.js';
import { judgeMap, readMaps, type MapSeen, type MapsSeen } from '../project/read-maps.js';
import { locationOf, type Scope } from '../project/scope.js';

export interface LayerLost {
  readonly map: string;
  readonly layer: string;
}

/**
 * Layers that are sound now and would not be once the steps of an undo are done: judged by the function that judges them now, in
 * the world as it would be. What comes out of the trash in the place of something is taken to be as good as that.
 */
export function layersLostAfter(scope: Scope, steps: readonly PlannedStep[]): LayerLost[] {
  const seen = readMaps(scope);
  const ahead = new StepsAhead();
  ahead.add(steps);
  const root = scope.root === null ? null : ahead.goal(scope.root);
  const then = {
    ...seen.surroundings,
    root: root === null ? null : locationOf(root, scope.places),
    look: (location: Location, table: string | null) => lookThen(location, table, { seen, scope, ahead }),
  };
  return seen.maps.flatMap((map) => {
    const after = mapThen(map, ahead);
    if (after === null) return [];
    const states = new Map(judgeMap(after.path, after.bytes, after.file, then).layers.map((l) => [l.layer.id, l.judgement.state]));
    return map.layers.flatMap(({ layer, judgement }) => {
      const state = states.get(layer.id);
      const isLost = judgement.state === 'sound' && state !== undefined && state !== 'sound';
      return isLost ? [{ map: map.file.title || basename(map.path), layer: layer.title }] : [];
    });
  });
}

/** A map as it would be; null: it goes, or cannot be read then. */
function mapThen(map: MapSeen, ahead: StepsAhead): Pick<MapSeen, 'path' | 'bytes' | 'file'> | null {
  const path = ahead.goal(map.path);
  if (path === null) return null;
  const origin = ahead.origin(path);
  if (origin.kind !== 'bytes') return { path, bytes: map.bytes, file: map.file };
  const bytes = Buffer.from(origin.bytes);
  const file = parseMapFile(path, bytes.toString('utf8'));
  return file.ok ? { path, bytes, file: file.value } : null;
}

interface Then {
  readonly seen: MapsSeen;
  readonly scope: Scope;
  readonly ahead: StepsAhead;
}

function lookThen(location: Location, table: string | null, { seen, scope, ahead }: Then): Found {
  const place = placeNamed(scope.places, location.place);
  if (!place) return { kind: 'nothing' };
  const now = seen.looker.look(location, table).found;
  const spelled = now.kind === 'dataset' && now.spelled ? now.spelled : location.segments;
  const path = join(pathOf(place), ...spelled);
  const origin = ahead.origin(path);
  if (!('path' in origin)) return { kind: 'nothing' };
  if (origin.path === path) return withCompanions(location, table, path, { seen, scope, ahead });
  if (isInTrash(origin.path)) return now;
  const looked = withCompanions(locationOf(origin.path, scope.places), table, path, { seen, scope, ahead });
  return looked.kind === 'dataset' ? { ...looked, spelled: null } : looked;
}

/** What stands at `from` now, if all of its files are beside `path` then. */
function withCompanions(from: Location, table: string | null, path: string, { seen, ahead }: Then): Found {
  const { found, dataset, folder } = seen.looker.look(from, table);
  if (found.kind !== 'dataset' || !dataset || folder === null) return found;
  const lost = dataset.group.companions.find((f) => {
    const goal = ahead.goal(join(folder, f.path));
    return goal === null || dirname(goal) !== dirname(path);
  });
  return lost ? { ...found, incomplete: `${basename(lost.path)} goes` } : found;
}
