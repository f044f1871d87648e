import { fieldOfLook } from '@rootmap/core';
import type { KeptLook, LayerDataView } from '@rootmap/core/contract';

const KINDS: Readonly<Record<NonNullable<LayerDataView['kind']>, string>> = {
  point: 'points',
  line: 'lines',
  area: 'areas',
  mixed: 'several kinds of shapes',
  raster: 'rasters',
  table: 'tables',
};

/** Why a layer cannot have a look; null: it can. */
export function whyNot(
  { kind, look }: Pick<KeptLook, 'kind' | 'look'>,
  ofLayer: LayerDataView['kind'],
  fields: readonly string[],
): string | null {
  if (kind !== ofLayer) return `it is for ${kind === null ? 'other data' : KINDS[kind]}`;
  const field = look.kind === 'raster' ? null : fieldOfLook(look);
  return field !== null && !fields.includes(field) ? `there is no field ${field} here` : null;
}
