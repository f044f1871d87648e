import type { Fingerprint } from '../src/dataset/fingerprint.js';
import type { BrokenLayer, Target } from '../src/mend/types.js';

// Broken layers and datasets of a made-up disk: dataset n is told from all others by every number of its fingerprint.

export const print = (n: number, over: Partial<Fingerprint> = {}): Fingerprint => ({
  v: 1,
  format: 'shapefile',
  geometryType: 'Polygon',
  count: 10 + n,
  vertices: 100 + n,
  fields: [
    ['id', 'integer'],
    [`f${n}`, 'text'],
  ],
  extent: [n, n, n + 5, n + 5],
  crs: 'EPSG:32624',
  raster: null,
  bytes: { '.shp': 1000 + n },
  modified: null,
  grid: `${n}`.padStart(64, '0'),
  hash: `sha256:${n}`,
  ...over,
});
export const broken = (name: string, folder: string, n: number | null, over: Partial<BrokenLayer> = {}): BrokenLayer => ({
  key: `${over.map?.segments.join('/') ?? 'maps/m'}:${name}`,
  map: { place: 'desk', segments: ['p', 'maps', 'm.owc.json'] },
  title: name,
  recorded: { space: 'desk', segments: [...folder.split('/'), name] },
  steps: null,
  table: null,
  fingerprint: n === null ? null : print(n),
  needs: [],
  throughLink: null,
  isHere: null,
  ...over,
});
export const target = (path: string, n: number, over: Partial<Target> & { print?: Partial<Fingerprint> } = {}): Target => ({
  location: { place: 'desk', segments: path.split('/') },
  table: null,
  fingerprint: print(n, over.print),
  damaged: false,
  ...over,
});
