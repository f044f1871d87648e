import type { Field } from '../../dataset/dataset.js';
import type { CoordinateColumns } from '../../dataset/coordinate-columns.js';
import { degreesOf, numberOfComma } from './written-as.js';

/** East and north, or longitude and latitude; NaN where there is no number. */
export function positionOf(row: readonly string[], { x, y }: CoordinateColumns, fields: readonly Field[]): readonly [number, number] {
  return [coordinate(row[x], fields[x]), coordinate(row[y], fields[y])];
}

function coordinate(text: string | undefined, field: Field | undefined): number {
  const trimmed = text?.trim() ?? '';
  if (trimmed === '') return NaN;
  if (field?.writtenAs === 'degrees') return degreesOf(trimmed) ?? NaN;
  return field?.writtenAs === 'comma' ? numberOfComma(trimmed) : Number(trimmed);
}
