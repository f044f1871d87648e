import { geoJsonFeature, items, member, parseJsonTree, patchText, ProblemError, setAt, textOf, must, type Field } from '@rootmap/core';
import type { ShownValue } from '@rootmap/core/contract';
import type { Transformer } from '../crs/transformer.js';
import { shapeOfDrawn, typedValue, type Edits } from './edited-records.js';

/** Larger ones are edited in a geodatabase: the whole text is held. */
export const LARGEST_GEOJSON_BYTES = 32 << 20;

/**
 * The text of a GeoJSON file after edits: features that were not touched, and all members that are not ours, keep their bytes.
 * @param to from the CRS of the map to that of the file; null: they are the same
 */
export function editGeoJson(
  file: string,
  text: string,
  fields: readonly Field[],
  edits: Edits,
  to: Transformer | null,
): { text: string; records: number } {
  const root = must(parseJsonTree(file, text));
  const list = member(root, 'features');
  if (textOf(member(root, 'type')) !== 'FeatureCollection' || list?.kind !== 'array')
    throw new ProblemError({
      code: 'wrong-use',
      message: `${file} holds a single shape, not a list of features. Make a working copy in a geodatabase to edit it.`,
    });
  const all = [...fields, ...edits.newFields];
  const removed = new Set(edits.removed);
  const changed = new Map(edits.changed.map((c) => [c.id, c]));
  const features = items(list).filter((f) => textOf(member(f, 'type')) === 'Feature');
  const kept = features.flatMap((f, id) => {
    if (removed.has(id)) return [];
    const slice = text.slice(f.start, f.end);
    const edit = changed.get(id);
    if (!edit) return [slice];
    const valued = withValues(slice, all, edit.values);
    return [edit.geometry === undefined ? valued : setAt(valued, ['geometry'], geometryOf(shapeOfDrawn(edit.geometry, to)))];
  });
  const added = edits.added.map((a) => {
    const values = all.map((f, i) => typedValue(a.values[i] ?? null, f));
    return geoJsonFeature({ id: 0, geometry: shapeOfDrawn(a.geometry, to), values }, all)!;
  });
  const [first] = features;
  const gap = first ? text.slice(list.start + 1, first.start) : '\n';
  const end = first ? text.slice(features.at(-1)!.end, list.end - 1) : '\n';
  const both = [...kept, ...added];
  const body = both.length === 0 ? '[]' : `[${both.map((f) => gap + f).join(',')}${end}]`;
  return { text: patchText(text, [{ start: list.start, end: list.end, text: body }]), records: both.length };
}

/** Only values that are others now are written. */
function withValues(slice: string, fields: readonly Field[], values: readonly ShownValue[]): string {
  const feature = JSON.parse(slice) as { id?: unknown; properties?: Record<string, unknown> | null };
  const { properties } = feature;
  const base = properties ? slice : setAt(slice, ['properties'], {});
  return fields.reduce((text, field, i) => {
    if (field.type === 'json' || field.type === 'binary') return text;
    const value = typedValue(values[i] ?? null, field);
    const before = (field.isFeatureId ? feature.id : properties?.[field.name]) ?? null;
    const isSame =
      (typeof before === 'string' || typeof before === 'number' || typeof before === 'boolean') && String(before) === String(value);
    if (before === value || isSame) return text;
    return setAt(text, field.isFeatureId ? ['id'] : ['properties', field.name], typeof value === 'bigint' ? Number(value) : value);
  }, base);
}

function geometryOf(wkb: Uint8Array | null): unknown {
  const text = geoJsonFeature({ id: 0, geometry: wkb, values: [] }, []);
  return text === null ? null : (JSON.parse(text) as { geometry: unknown }).geometry;
}
