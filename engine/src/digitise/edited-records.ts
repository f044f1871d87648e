import { geoJsonToWkb, mapWkb, ProblemError, type Feature, type FeatureStream, type Field, type Value } from '@rootmap/core';
import type { DigitiseRequest, DrawnGeometry, ShownValue } from '@rootmap/core/contract';
import type { Transformer } from '../crs/transformer.js';

export type Edits = Pick<DigitiseRequest, 'added' | 'changed' | 'removed' | 'newFields'>;

/** A shape in the dataset's own CRS; null: the record has none. Throws where it is no shape, or has no place there. */
export function shapeOfDrawn(geometry: DrawnGeometry | null, to: Transformer | null): Uint8Array | null {
  if (geometry === null) return null;
  const wkb = geoJsonToWkb(geometry);
  const moved = wkb && (to ? mapWkb(wkb, to) : wkb.slice());
  if (!moved)
    throw new ProblemError({
      code: 'wrong-use',
      message: 'A shape has no place in the CRS of the dataset. Draw it nearer to where the dataset lies.',
    });
  return moved.slice();
}

/** A value as its field holds it. Throws where it is none of its type. */
export function typedValue(value: ShownValue, field: Field): Value {
  if (value === null || value === '') return null;
  const refuse = (what: string): never => {
    throw new ProblemError({
      code: 'wrong-use',
      message: `"${String(value)}" cannot stand in ${field.name}, which holds ${what}. Correct it in the table.`,
    });
  };
  switch (field.type) {
    case 'integer':
    case 'integer64': {
      const text = String(value).trim();
      if (!/^[-+]?\d+$/.test(text)) return refuse('whole numbers');
      const n = Number(text);
      return Number.isSafeInteger(n) ? n : BigInt(text);
    }
    case 'real': {
      const n = Number(value);
      return Number.isFinite(n) && String(value).trim() !== '' ? n : refuse('numbers');
    }
    case 'boolean':
      return value === true || value === 1 || value === 'true'
        ? true
        : value === false || value === 0 || value === 'false'
          ? false
          : refuse('yes or no');
    case 'date':
      return /^\d{4}-\d\d-\d\d$/.test(String(value)) ? String(value) : refuse('dates like 2026-03-14');
    default:
      return String(value);
  }
}

/** The records of a dataset as they are after the edits: those that were not touched come through as they are. */
export function editedRecords(before: FeatureStream, edits: Edits, to: Transformer | null): FeatureStream {
  const fields = [...before.fields, ...edits.newFields];
  const removed = new Set(edits.removed);
  const changed = new Map(edits.changed.map((c) => [c.id, c]));
  const nulls = edits.newFields.map(() => null);
  function* features(): Generator<Feature> {
    let last = -1;
    for (const f of before.features) {
      last = Math.max(last, f.id);
      if (removed.has(f.id)) continue;
      const edit = changed.get(f.id);
      if (!edit) yield edits.newFields.length === 0 ? f : { ...f, values: [...f.values, ...nulls] };
      else
        yield {
          id: f.id,
          geometry: edit.geometry === undefined ? f.geometry : shapeOfDrawn(edit.geometry, to),
          values: keepValues(f, edit.values, fields),
        };
    }
    for (const a of edits.added)
      yield {
        id: ++last,
        geometry: shapeOfDrawn(a.geometry, to),
        values: fields.map((field, i) => typedValue(a.values[i] ?? null, field)),
      };
  }
  return { fields, features: features() };
}

/** What a screen does not show whole (bytes) stays as it was. */
const keepValues = (f: Feature, values: readonly ShownValue[], fields: readonly Field[]): Value[] =>
  fields.map((field, i) => (field.type === 'binary' ? (f.values[i] ?? null) : typedValue(values[i] ?? null, field)));
