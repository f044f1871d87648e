import { geometryKind, type Dataset, type Extent } from '@rootmap/core';
import type { LayerDataView } from '@rootmap/core/contract';
import type { AdvisedLayer } from '../crs/advise-crs.js';
import { crsNamed } from '../crs/search-crs.js';
import { crsKey, toDegrees } from '../crs/definitions.js';
import type { RootedScope } from '../project/scope.js';
import { findAnyDataset } from '../project/find-dataset.js';
import { titleOf } from './new-layer.js';

export const NO_DATA: LayerDataView = {
  dataset: null,
  kind: null,
  count: null,
  fields: [],
  crs: null,
  crsName: null,
  isPlaced: false,
  pixel: null,
  degrees: null,
  bbox: null,
};

/** What a map needs to know of a dataset. */
export function layerData(id: string, d: Dataset): LayerDataView {
  const code = d.crs?.code ?? null;
  const key = crsKey(d.crs);
  return {
    dataset: id,
    kind: d.kind === 'raster' ? 'raster' : d.kind === 'table' ? 'table' : (geometryKind(d.geometryType) ?? 'mixed'),
    count: d.featureCount,
    fields: d.fields ?? [],
    crs: code,
    crsName: code === null ? (d.crs?.name ?? null) : (crsNamed(code)?.name ?? d.crs?.name ?? null),
    isPlaced: key !== null,
    pixel: d.raster?.pixel ?? null,
    degrees: d.bbox && key !== null ? degreesOf(d.bbox, key) : null,
    bbox: d.bbox,
  };
}

/** What a dataset says for the CRS of a map that shows it. */
export function advisedLayer(scope: RootedScope, id: string): AdvisedLayer {
  const found = findAnyDataset(scope, id);
  const { crs, degrees } = layerData(id, found.dataset);
  return { crs, degrees, isRaster: found.dataset.kind === 'raster', name: titleOf(found) };
}

const ALONG = 9;

/** West, south, east, north of an extent, from points along its edges, since they bend; null where none has a place on Earth. */
function degreesOf([minx, miny, maxx, maxy]: Extent, key: string): [number, number, number, number] | null {
  const spots: [number, number][] = [];
  for (let i = 0; i < ALONG; i++) {
    const t = i / (ALONG - 1);
    const [x, y] = [minx + t * (maxx - minx), miny + t * (maxy - miny)];
    for (const point of [
      [x, miny],
      [x, maxy],
      [minx, y],
      [maxx, y],
    ] as const) {
      const spot = toDegrees(key, point);
      if (spot) spots.push(spot);
    }
  }
  if (spots.length === 0) return null;
  const [xs, ys] = [spots.map((s) => s[0]), spots.map((s) => s[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}
