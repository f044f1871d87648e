import { geometryKind, mapWkb, ProblemError, readFeatures, wkbToGeoJson } from '@rootmap/core';
import type { DrawnKind, EditableRecord, EditableView, ShownValue } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { transformer } from '../crs/transformer.js';
import { platformBelow } from '../survey/platform.js';
import { versionOf } from '../disk/cache-folder.js';
import { amongOriginals, type RootedScope } from '../project/scope.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { whyNotEditable } from './plan-digitise.js';

/** More records than these are not edited at once on a screen. */
const MOST_EDITED = 20_000;
const KIND: Readonly<Record<string, DrawnKind>> = { point: 'Point', line: 'LineString', area: 'Polygon' };

/** All records of a dataset with their shapes in the map's CRS, to be edited. */
export function readEditable(scope: RootedScope, found: FoundDataset, crs: string): EditableView {
  const { dataset, folder } = found;
  const path = join(folder, dataset.group.path);
  const isOriginal = amongOriginals(scope, path);
  const own = dataset.crs?.code ?? null;
  const to = own === null || own === crs ? null : transformer(own, crs);
  const count = dataset.featureCount ?? 0;
  const why =
    whyNotEditable(found) ??
    (own !== crs && !to
      ? `how ${own} becomes ${crs} is not known here`
      : count > MOST_EDITED
        ? `it has ${count} records, and ${MOST_EDITED} can be edited at once`
        : null);
  const base = {
    fields: dataset.fields ?? [],
    state: versionOf(found),
    kind: KIND[geometryKind(dataset.geometryType) ?? ''] ?? null,
    isOriginal,
    why,
  };
  if (why !== null) return { ...base, records: [] };
  const platform = platformBelow(folder);
  try {
    const records: EditableRecord[] = [];
    for (const { id, geometry, values } of readFeatures(dataset, platform).features) {
      if (records.length >= MOST_EDITED)
        throw new ProblemError({ code: 'wrong-use', message: `More than ${MOST_EDITED} records cannot be edited at once.` });
      const moved = geometry && (to ? mapWkb(geometry, to) : geometry);
      const shape = moved && wkbToGeoJson(moved);
      records.push({
        id,
        geometry: shape ? { type: shape.type, coordinates: shape.coordinates ?? [] } : null,
        values: values.map((v): ShownValue => (v instanceof Uint8Array ? `${v.length} bytes` : typeof v === 'bigint' ? String(v) : v)),
      });
    }
    return { ...base, records };
  } finally {
    platform.close();
  }
}
