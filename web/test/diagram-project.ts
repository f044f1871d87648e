import type { DatasetView, LayerView, MapView, ProjectView } from '@rootmap/core/contract';
import { projectView } from './project-view.js';

export const layer = (map: string, n: number, over: Partial<LayerView> = {}): LayerView => ({
  key: `${map}:${n}`,
  map,
  layer: `l${n}`,
  title: `Layer ${n}`,
  geometry: 'Point',
  href: `../data/d${n}.shp`,
  stored: 'relative',
  resolved: `/r/data/d${n}.shp`,
  shownResolved: `data/d${n}.shp`,
  table: null,
  reach: 'inside',
  state: 'sound',
  reason: null,
  detail: null,
  dataset: `/r/data/d${n}.shp`,
  link: null,
  recordedFolder: 'data',
  style: null,
  ...over,
});
export const map = (name: string, layers: LayerView[]): MapView => ({
  path: name,
  relativePath: name,
  title: name,
  storedForm: 'relative',
  bytes: 1,
  layers,
});
export const dataset = (n: number): DatasetView => ({
  id: `/r/data/d${n}.shp`,
  name: `d${n}.shp`,
  folder: 'data',
  link: null,
  place: 'desk',
  format: 'shapefile',
  kind: 'vector',
  geometry: 'Point',
  count: 1,
  crs: null,
  bytes: 100 * n,
  state: 'ok',
  findings: [],
});
export const project = (maps: MapView[], over: Partial<ProjectView> = {}): ProjectView =>
  projectView({ maps, datasets: Array.from({ length: 40 }, (_, n) => dataset(n)), ...over });
export const adrift = { state: 'adrift', dataset: null, recordedFolder: 'old' } as const;
