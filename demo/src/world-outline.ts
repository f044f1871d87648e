import { createRequire } from 'node:module';
import { join } from '@rootmap/engine';
import { feature } from 'topojson-client';
import { writeProjectFile, writeShapefile } from '@rootmap/core';
import { GEOGRAPHIC } from './crs-texts.js';
import { drawMap } from './draw-maps.js';
import { put } from './write-data.js';

type Ring = [number, number][];
type Geometry = { type: 'Polygon'; coordinates: Ring[] } | { type: 'MultiPolygon'; coordinates: Ring[][] };
const WHEN = '2026-01-05T10:00:00Z';

/** A second, small project of real open data: countries and land of Natural Earth, from the package world-atlas (ISC). */
export async function makeWorldOutline(root: string): Promise<void> {
  const require = createRequire(import.meta.url);
  const countries = collection(require('world-atlas/countries-110m.json'), 'countries');
  const land = collection(require('world-atlas/land-110m.json'), 'land');
  const geojson = { type: 'FeatureCollection', features: countries };
  put(join(root, 'received', 'countries.geojson'), JSON.stringify(geojson), WHEN);
  const shapes = land.map((f) =>
    (f.geometry.type === 'Polygon' ? [f.geometry.coordinates] : f.geometry.coordinates).flatMap((rings) =>
      rings.map((r) => [...r].reverse()),
    ),
  );
  const parts = writeShapefile({
    shapeType: 5,
    shapes,
    fields: [{ name: 'id', code: 'N', lengthBytes: 9 }],
    rows: shapes.map((_, i) => [i + 1]),
    date: { year: 2026, month: 1, day: 5 },
  });
  for (const [ending, bytes] of Object.entries(parts)) put(join(root, 'received', `land.${ending}`), bytes, WHEN);
  put(join(root, 'received', 'land.prj'), GEOGRAPHIC, WHEN);
  put(join(root, 'received', 'licence.txt'), 'Natural Earth, public domain; packaged as world-atlas (ISC licence).\n', WHEN);
  put(
    join(root, 'world_outline.rootmap.json'),
    writeProjectFile({
      id: 'c1d4b7a0-23f5-4b8e-8f1d-90a6e2c45d18',
      name: 'world_outline',
      title: 'World in outline',
      summary: 'Countries and land, from open data.',
      created: WHEN,
      crs: 'EPSG:4326',
      storedForm: 'relative',
      workingGeodatabase: null,
      folders: { received: 'originals', maps: 'maps' },
    }),
    WHEN,
  );
  await drawMap({
    file: join(root, 'maps', 'world.owc.json'),
    title: 'World',
    summary: 'Two layers, both inside.',
    when: WHEN,
    layers: [
      { title: 'Countries', data: join(root, 'received', 'countries.geojson') },
      { title: 'Land', data: join(root, 'received', 'land.shp') },
    ],
  });
}

function collection(topology: unknown, name: string): { type: string; properties: unknown; geometry: Geometry }[] {
  const t = topology as { objects: Record<string, unknown> };
  const found = feature(t as never, t.objects[name] as never) as unknown as {
    type: string;
    features?: { type: string; properties: unknown; geometry: Geometry }[];
  };
  return found.features ?? [found as never];
}
