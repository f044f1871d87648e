// Areas for the benches: a sheet of fields, each an uneven ring, as land parcels or habitat patches are.

import { writeFileSync } from 'node:fs';
import { writeShapefile } from '@rootmap/core';

const PRJ =
  'PROJCS["WGS_1984_UTM_Zone_24N",GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984",SPHEROID["WGS_1984",6378137.0,298.257223563]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",500000.0],PARAMETER["False_Northing",0.0],PARAMETER["Central_Meridian",-39.0],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0.0],UNIT["Meter",1.0]]';

/** A stream of numbers from 0 to 1 that is the same in every run. */
export function random(seed) {
  let state = seed;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
}

/** The i-th of n areas on a square sheet of 100 km, as rings of [x, y]; clockwise, as outer rings of a shapefile are. */
export function makeArea(i, n, next, corners = 12) {
  const across = Math.ceil(Math.sqrt(n));
  const size = 100_000 / across;
  const [cx, cy] = [450_000 + (i % across) * size, 4_850_000 + Math.floor(i / across) * size];
  const ring = Array.from({ length: corners }, (_, k) => {
    const angle = (-2 * Math.PI * k) / corners;
    const reach = size * (0.3 + 0.2 * next());
    return [cx + reach * Math.cos(angle), cy + reach * Math.sin(angle)];
  });
  return [[...ring, ring[0]]];
}

/** Areas in EPSG:32624 as a shapefile with its companions. @param path without an ending */
export function writeAreas(path, shapes) {
  const parts = writeShapefile({
    shapeType: 5,
    shapes,
    fields: [{ name: 'id', code: 'N', lengthBytes: 9 }],
    rows: shapes.map((_, i) => [i]),
    date: { year: 2026, month: 1, day: 5 },
  });
  for (const [ending, bytes] of Object.entries({ ...parts, prj: PRJ })) writeFileSync(`${path}.${ending}`, bytes);
}
