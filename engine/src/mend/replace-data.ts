import { existsSync } from 'node:fs';
import {
  fieldUses,
  judgeLayer,
  likelyField,
  looseName,
  parseMapFile,
  patchFields,
  patchFingerprint,
  patchReference,
  patchText,
  ProblemError,
  renameInStyle,
  type Field,
  type FieldNames,
  type FieldUse,
  type Fingerprint,
  type Location,
  type MapLayer,
  type Target,
  type TextPatch,
  joined,
  partsOf,
} from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import type { PlannedChange, PlannedWrite } from '../changes/change.js';
import { pathOfReference, readStyleFile } from '../project/layer-styles.js';
import { layerKey } from '../project/layer-row.js';
import { readMaps, type LayerSeen, type MapSeen, type MapsSeen } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { locationOf, type Scope } from '../project/scope.js';
import { withStyleNeeds } from '../project/style-needs.js';
import type { ReadWhole } from './gather.js';
import { patchesFor } from './patch-layer.js';

/** Data that takes the place of a layer's, on purpose; `path` null: what stands where the layer's data was recorded, its table too. */
export interface NewData {
  readonly path: string | null;
  readonly table: string | null;
}

interface LayerToReplace {
  readonly key: string;
  readonly map: MapSeen;
  readonly seen: LayerSeen;
  /** Fields that its filter, label and styles use, and by which of them. */
  readonly uses: ReadonlyMap<string, readonly FieldUse[]>;
}

/** What a replacement would do; `tables` only, where one of several is to be chosen first. */
export interface Replacement {
  readonly scope: Scope;
  readonly seen: MapsSeen;
  readonly location: Location;
  readonly tables: readonly string[];
  readonly data: { readonly target: Target; readonly fields: readonly Field[] } | null;
  /** The layer that was meant, then all others that draw the same data. */
  readonly layers: readonly LayerToReplace[];
  /** For every field that these layers use: the field of the new data that most likely means the same. */
  readonly proposed: ReadonlyMap<string, string | null>;
  readonly warnings: readonly string[];
}

/**
 * Looks at other data for a layer. Reads; writes nothing.
 * @param key of the layer, as the views have it
 * @throws not-found, missing, wrong-use with a sentence
 */
export function lookAtReplacement(scope: Scope, key: string, to: NewData, read: ReadWhole): Replacement {
  const seen = readMaps(scope);
  const all = seen.maps.flatMap((map) => map.layers.map((layer) => ({ key: layerKey(map, layer), map, seen: layer })));
  const first = all.find((l) => l.key === key);
  if (!first) throw new ProblemError({ code: 'not-found', what: 'layer', id: key.split('\n').pop()! });
  if (first.seen.layer.isService)
    throw new ProblemError({
      code: 'wrong-use',
      message: `"${first.seen.layer.title}" draws a service. Add the data to the map as a layer of its own.`,
    });
  const own = dataOf(first.seen);
  const others = own === null ? [] : all.filter((l) => l !== first && dataOf(l.seen) === own);
  const layers = [first, ...others].map((l) => ({ ...l, uses: fieldUses(l.seen.layer, styleTexts(l.map, l.seen.layer, scope)) }));
  const location = to.path === null ? first.seen.judgement.location : locationOf(to.path, scope.places);
  if (!location) throw new ProblemError({ code: 'missing', path: first.seen.layer.reference?.href ?? first.seen.layer.title });
  const common = { scope, seen, location, layers };
  const table = to.path === null ? first.seen.judgement.table : to.table;
  const { found, dataset, folder } = seen.looker.look(location, table);
  if (found.kind === 'table-not-named') return { ...common, tables: found.tables, data: null, proposed: new Map(), warnings: [] };
  if (!dataset || folder === null || found.kind !== 'dataset')
    throw new ProblemError({
      code: 'wrong-use',
      message: `${joined(location.segments)} cannot be drawn by a layer. Choose a dataset that can be read.`,
    });
  const fingerprint = read({ folder, dataset });
  const fields = dataset.fields ?? [];
  const used = new Set(layers.flatMap((l) => [...l.uses.keys()]));
  return {
    ...common,
    tables: [],
    data: { target: { location, table: found.table, fingerprint, damaged: false }, fields },
    proposed: new Map([...used].map((field) => [field, likelyField(field, fields)])),
    warnings: warningsOf(first.seen.layer, fingerprint, found.incomplete),
  };
}

/** What a layer draws, or drew before it was lost: its real path, `#table` behind it. */
export const dataOf = ({ judgement: j }: LayerSeen): string | null => (j.resolved === null ? null : nameOfData(j.resolved, j.table));
export const nameOfData = (path: string, table: string | null): string => path + (table === null ? '' : `#${table}`);

function styleTexts(map: MapSeen, layer: MapLayer, scope: Scope): string[] {
  return styleFiles(map, layer, scope).map((s) => s.text);
}

function styleFiles(map: MapSeen, layer: MapLayer, scope: Scope) {
  return layer.others.flatMap((reference) => {
    if (reference.role !== 'style') return [];
    const at = pathOfReference(reference.href, map.location, scope);
    const text = at && readStyleFile(at.path);
    return at && text !== null ? [{ reference, path: at.path, text }] : [];
  });
}

const KINDS: readonly (readonly [RegExp, string])[] = [
  [/point/i, 'points'],
  [/line|curve/i, 'lines'],
  [/polygon|surface/i, 'areas'],
];
const kindOf = (f: Fingerprint): string | null =>
  f.raster ? 'a raster' : (KINDS.find(([pattern]) => pattern.test(f.geometryType ?? ''))?.[1] ?? null);

function warningsOf({ fingerprint: before }: MapLayer, after: Fingerprint, incomplete: string | null): string[] {
  const warnings = incomplete === null ? [] : [`The new data is incomplete: ${incomplete}.`];
  if (!before) return warnings;
  const [a, b] = [kindOf(before), kindOf(after)];
  if (a !== null && a !== b)
    warnings.push(`The layer's look is made for ${a}, and this is ${b ?? 'no shapes'}: choose a new look on the map.`);
  if (before.crs !== null && after.crs !== null && before.crs !== after.crs)
    warnings.push('It has another CRS. The map transforms it; measured values may differ.');
  return warnings;
}

export interface ReplaceOrder {
  readonly layers: readonly string[];
  readonly to: NewData;
  readonly fields: FieldNames;
}

/**
 * Plans that layers draw other data from now on: address, format, link, what is remembered, and the names of fields in
 * filter, label and styles. A style in a file of its own is not changed, since others may use it: a copy beside it is.
 * @throws wrong-use where a field that is used has no field in the new data
 */
export function planReplace(scope: Scope, order: ReplaceOrder, who: string, read: ReadWhole): PlannedChange {
  const found = lookAtReplacement(scope, order.layers[0]!, order.to, read);
  const { data } = found;
  if (!data) throw new ProblemError({ code: 'wrong-use', message: `Say which table: ${found.tables.join(', ')}.` });
  const wanted = new Set(order.layers);
  const chosen = found.layers.filter((l) => wanted.has(l.key));
  if (chosen.length < wanted.size)
    throw new ProblemError({ code: 'wrong-use', message: 'A layer that was chosen draws other data by now. Look again.' });
  checkFields(chosen, order.fields, data.fields);
  const copies = new Map<string, PlannedWrite & { readonly name: string }>();
  const writes = [...new Set(chosen.map((l) => l.map))].map((map) => {
    const layers = chosen.filter((l) => l.map === map);
    const patches = layers.flatMap((l) => patchesOf(l, data.target, order.fields, scope, copies));
    return checked(found, layers, writeOf(map, patchText(map.file.text, patches)));
  });
  const name = data.target.location.segments.at(-1)! + (data.target.table === null ? '' : ` (${data.target.table})`);
  return {
    title: `Use ${name} instead in ${chosen.length === 1 ? '1 layer' : `${chosen.length} layers`}`,
    kind: 'mend',
    root: scope.root ?? scope.named,
    who,
    steps: [...[...copies.values()].map(({ name: _name, ...write }) => write), ...writes],
  };
}

function checkFields(layers: readonly LayerToReplace[], names: FieldNames, fields: readonly Field[]): void {
  const known = new Set(fields.map((f) => f.name));
  for (const { seen, uses } of layers)
    for (const [field, by] of uses) {
      const to = names.get(field) ?? field;
      if (!known.has(to))
        throw new ProblemError({
          code: 'wrong-use',
          message: `The ${by.join(' and ')} of "${seen.layer.title}" uses the field ${field}, and the new data has no field ${to}. Say which of its fields takes the place.`,
        });
    }
}

function patchesOf(
  { map, seen, uses }: LayerToReplace,
  target: Target,
  names: FieldNames,
  scope: Scope,
  copies: Map<string, PlannedWrite & { readonly name: string }>,
): TextPatch[] {
  const own = new Map([...names].filter(([from, to]) => from !== to && uses.has(from)));
  const styles = styleFiles(map, seen.layer, scope).flatMap(({ reference, path, text }) => {
    const renamed = renameInStyle(text, own);
    if (renamed === text) return [];
    const key = `${path}\n${renamed}`;
    let copy = copies.get(key);
    if (!copy) copies.set(key, (copy = copyOf(path, renamed, target, copies)));
    return patchReference(reference, joined([...partsOf(reference.href).slice(0, -1), encodeURIComponent(copy.name)]));
  });
  const patches = patchesFor(map, seen, target, scope);
  return [...patches, ...patchFingerprint(map.file, seen.layer, target.fingerprint), ...patchFields(seen.layer, own), ...styles];
}

/** A style file beside the one that is copied, called by it and by the data; nothing stands there. */
function copyOf(path: string, text: string, target: Target, taken: ReadonlyMap<string, PlannedWrite>) {
  const ending = /\.[^.]*$/.exec(basename(path))?.[0] ?? '';
  const data = looseName(target.table ?? target.location.segments.at(-1)!) || 'data';
  const used = new Set([...taken.values()].map((w) => w.path));
  for (let n = 1; ; n++) {
    const name = `${basename(path, ending)}_${data}${n === 1 ? '' : `_${n}`}${ending}`;
    const at = join(dirname(path), name);
    if (!used.has(at) && !existsSync(at)) return { kind: 'write' as const, path: at, before: null, after: Buffer.from(text, 'utf8'), name };
  }
}

/** What would be written is read as a map again: every layer must be sound then, or it is not written. */
function checked({ seen, scope }: Replacement, layers: readonly LayerToReplace[], write: PlannedWrite): PlannedWrite {
  const parsed = parseMapFile(write.path, Buffer.from(write.after).toString('utf8'));
  for (const { map, seen: before } of layers) {
    const layer = parsed.ok ? parsed.value.layers[before.layer.index] : undefined;
    const now = layer && judgeLayer(map.location, withStyleNeeds(layer, map.location, scope.places), seen.surroundings);
    if (now?.state !== 'sound' && now?.state !== 'incomplete')
      throw new ProblemError({
        code: 'failed',
        what: `Giving "${before.layer.title}" other data`,
        why: now?.detail ?? 'its map could not be read after it',
      });
  }
  return write;
}
