import { statSync } from 'node:fs';
import {
  parseReference,
  patchReference,
  placeNamed,
  resolveIn,
  storeReference,
  type Location,
  type MapReference,
  type Shift,
  type TextPatch,
  type Trail,
  type Verdict,
  partsOf,
} from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { pathOf } from '../places/places.js';
import { layerKey } from '../project/layer-row.js';
import type { MapSeen, MapsSeen } from '../project/read-maps.js';
import { confinementOf, locationOf, type Scope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';

/** A style in a file of its own that stands nowhere, and where it stands now. */
export interface MendedStyle {
  readonly key: string;
  readonly map: string;
  readonly layer: string;
  readonly title: string;
  readonly before: string;
  readonly after: string | null;
  readonly verdict: Verdict;
  readonly evidence: readonly string[];
}

export interface AdriftStyle {
  readonly key: string;
  readonly map: MapSeen;
  readonly layer: string;
  readonly title: string;
  readonly reference: MapReference;
  /** Where it was recorded; null: the reference cannot be followed at all. */
  readonly trail: Trail | null;
}

/** The style files that maps name and that are not there. */
export function adriftStyles(seen: MapsSeen, scope: Scope): AdriftStyle[] {
  return seen.maps.flatMap((map) =>
    map.layers.flatMap((layer) =>
      layer.layer.others
        .filter((r) => r.role === 'style')
        .flatMap((reference, i): AdriftStyle[] => {
          const parsed = parseReference(reference.href);
          const local = parsed.ok ? parsed.value : null;
          if (local?.kind === 'service') return [];
          const at = local ? resolveIn(map.location, local, scope.places) : 'above-root';
          if (at !== 'above-root' && !('flavour' in at) && isFile(at, scope)) return [];
          const trail =
            at === 'above-root'
              ? null
              : 'flavour' in at
                ? { space: at.root, segments: at.segments }
                : { space: at.place, segments: at.segments };
          const key = `${layerKey(map, layer)}\nstyle ${i}`;
          return [{ key, map, layer: layer.layer.id, title: layer.layer.title, reference, trail }];
        }),
    ),
  );
}

/**
 * Where adrift styles stand now: below the folder that a shift of data names, or where one file of their name stands in
 * reach. Nothing is remembered of a style's content, so a name alone is never certain.
 */
export function mendStyles(
  adrift: readonly AdriftStyle[],
  shifts: readonly Shift[],
  folders: readonly string[],
  scope: Scope,
): MendedStyle[] {
  const named = adrift.length > 0 ? filesByName(folders, scope) : new Map<string, readonly Location[]>();
  return adrift.map((style): MendedStyle => {
    const { key, map, layer, title, reference } = style;
    const known = { key, map: map.path, layer, title, before: reference.href };
    const href = (to: Location): string => storeReference(map.location, to, null, formOf(map, scope), scope.places).href;
    const shifted = style.trail && alongShift(style.trail, shifts, scope);
    if (shifted) return { ...known, after: href(shifted), verdict: 'certain', evidence: ['It stands where the data moved to.'] };
    const same = named.get(nameOf(style)) ?? [];
    const [only] = same;
    if (!only) return { ...known, after: null, verdict: 'none', evidence: [] };
    if (same.length > 1)
      return {
        ...known,
        after: null,
        verdict: 'possible',
        evidence: [`${same.length} files in reach have its name; choose one in the map.`],
      };
    return { ...known, after: href(only), verdict: 'likely', evidence: ['The only file in reach that has its name.'] };
  });
}

/** What writes the chosen styles into one map. */
export function patchStyles(map: MapSeen, adrift: readonly AdriftStyle[], chosen: ReadonlyMap<string, string>): TextPatch[] {
  return adrift.flatMap((s) => (s.map === map && chosen.has(s.key) ? patchReference(s.reference, chosen.get(s.key)!) : []));
}

const formOf = (map: MapSeen, scope: Scope) => map.file.storedForm ?? scope.project?.storedForm ?? 'relative';

function alongShift(trail: Trail, shifts: readonly Shift[], scope: Scope): Location | null {
  for (const { from, to } of shifts) {
    if (from.space !== trail.space || !from.segments.every((s, i) => s === trail.segments[i])) continue;
    const there = { place: to.space, segments: [...to.segments, ...trail.segments.slice(from.segments.length)] };
    if (isFile(there, scope)) return there;
  }
  return null;
}

function isFile(at: Location, scope: Scope): boolean {
  const place = placeNamed(scope.places, at.place);
  return !!place?.present && statSync(join(pathOf(place), ...at.segments), { throwIfNoEntry: false })?.isFile() === true;
}

const plain = (name: string): string => name.normalize('NFC').toLowerCase();
const nameOf = ({ trail, reference }: AdriftStyle): string => plain(trail?.segments.at(-1) ?? basename(reference.href));

function filesByName(folders: readonly string[], scope: Scope): Map<string, readonly Location[]> {
  const found = new Map<string, Location[]>();
  for (const folder of folders) {
    const base = locationOf(folder, scope.places);
    for (const { path } of listFiles(folder, { confinedTo: confinementOf(folder, scope.places) }).files) {
      if (!/\.(sld|se|xml)$/i.test(path)) continue;
      const name = plain(basename(path));
      found.set(name, [...(found.get(name) ?? []), { place: base.place, segments: [...base.segments, ...partsOf(path)] }]);
    }
  }
  return found;
}
