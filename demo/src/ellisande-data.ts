import { chmodSync, readdirSync } from 'node:fs';
import { join } from '@rootmap/engine';
import { GEOGRAPHIC, UTM_24N, WORLD_MERCATOR, DEFINITIONS } from './crs-texts.js';
import { seeded, type Random } from './random.js';
import { areas, BAY, lines, points, toDegrees, type Features } from './shapes.js';
import { put, putCsv, putGeoJson, putShapefile } from './write-data.js';
import { putGeopackage } from './write-geopackage.js';
import { writeGeoTiff } from './write-geotiff.js';

const SEED = 20_260_311;

/** Depths of a bay that shoals towards its middle; nodata in a corner that was not surveyed. */
function depths(random: Random, width: number, height: number): Float32Array {
  const values = new Float32Array(width * height);
  for (let row = 0; row < height; row++)
    for (let col = 0; col < width; col++) {
      const x = col / width - 0.5;
      const y = row / height - 0.5;
      const unseen = col > width * 0.8 && row < height * 0.15;
      values[row * width + col] = unseen ? -9999 : Math.round((4 + 60 * (x * x + y * y) + 2 * Math.sin(9 * x) + random()) * 100) / 100;
    }
  return values;
}

function picture(random: Random, width: number, height: number): Uint8Array {
  const values = new Uint8Array(width * height);
  for (let i = 0; i < values.length; i++) {
    const [x, y] = [(i % width) / width, Math.floor(i / width) / height];
    // Sand and weed in patches, waves over both, and the grain of a camera.
    const bottom = Math.sin(5 * x + 2 * Math.sin(4 * y)) + Math.sin(7 * y - 3 * x);
    const waves = Math.sin(60 * (x + 0.4 * y));
    values[i] = 120 + 40 * bottom + 10 * waves + Math.floor(random() * 14);
  }
  return values;
}

/** Degrees to a tenth: steep along a channel, flat elsewhere. */
const slopeAt = (col: number, row: number, grain: number): number => {
  const fromChannel = row - 15 - 8 * Math.sin(col / 9);
  return Math.round((11 * Math.exp(-(fromChannel * fromChannel) / 18) + grain) * 10) / 10;
};

/** All data of the study, where it stood when its maps were drawn. */
export function makeEllisandeData(root: string, share: string, stick: string): void {
  const random = seeded(SEED);
  const shp = (path: string, f: Features, when: string, prj: string | null = UTM_24N): void => putShapefile(path, f, prj, when);
  makeReceived(join(root, 'received'), random, shp);
  makeDerived(root, random, shp);
  makeShare(share, random, shp);
  shp(join(stick, 'june_dives', 'survey_tracks'), lines(random, 14, 'track_id'), '2026-06-12T16:20:00Z');
  putGeoJson(join(stick, 'june_dives', 'dive_points.geojson'), toDegrees(points(random, 60, 'dive_no')), '2026-06-12T16:25:00Z');
  for (const [name, f] of Object.entries(scourFigures())) shp(join(root, 'derived', 'scour', name), f, '2026-03-03T13:00:00Z');
  shp(join(root, 'derived', 'rings', 'bare_rings'), areas(seeded(SEED + 2), 27, 60, 'ring_no'), '2026-03-03T13:30:00Z');
}

/** What chains scrape off the bottom: three datasets that become tables of one geodatabase later. */
export function scourFigures(): Record<'scour_marks' | 'drag_lines' | 'probe_holes', Features> {
  const random = seeded(SEED + 1);
  const numbered = (f: Features): Features => ({
    ...f,
    fields: f.fields.map((field) => (field.name === 'id' ? { ...field, name: 'mark_id' } : field)),
  });
  return {
    scour_marks: numbered(areas(random, 44, 90, 'mark_no')),
    drag_lines: numbered(lines(random, 31, 'drag_no')),
    probe_holes: numbered(points(random, 73, 'probe_no')),
  };
}

/** Originals are read-only. */
function protect(folder: string): void {
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true }))
    if (entry.isFile()) chmodSync(join(entry.parentPath, entry.name), 0o444);
}

type Shp = (path: string, f: Features, when: string, prj?: string | null) => void;

function makeReceived(received: string, random: Random, shp: Shp): void {
  const hydro = join(received, 'hydro_office');
  const pixel = 75;
  put(
    join(hydro, 'depth_model.tif'),
    writeGeoTiff({
      width: 120,
      height: 80,
      epsg: 32624,
      left: BAY.minx,
      top: BAY.maxy,
      pixel,
      values: depths(random, 120, 80),
      nodata: -9999,
    }),
    '2025-02-03T09:00:00Z',
  );
  shp(join(hydro, 'fairway'), lines(random, 3, 'fairway_nm'), '2025-02-03T09:05:00Z');
  shp(join(hydro, 'depth_contours'), lines(random, 40, 'contour_id'), '2025-02-03T09:10:00Z');
  shp(join(hydro, 'buoys'), points(random, 22, 'buoy_nm'), '2025-02-03T09:15:00Z');
  shp(join(hydro, 'lights'), points(random, 9, 'light_nm'), '2025-02-03T09:15:30Z');
  putCsv(join(hydro, 'soundings.csv'), points(random, 400, 'sounding_no'), '2025-02-03T09:20:00Z');
  putGeoJson(join(hydro, 'chart_limits.geojson'), toDegrees(areas(random, 4, 1600, 'chart_no')), '2025-02-03T09:25:00Z');
  const field = join(received, 'field_2025');
  shp(join(field, 'seagrass_beds_2025'), areas(random, 64, 420, 'bed_name'), '2025-09-20T14:00:00Z');
  shp(join(field, 'transects'), lines(random, 18, 'transect_no'), '2025-09-20T14:10:00Z');
  shp(join(field, 'drop_camera'), points(random, 210, 'still_no'), '2025-09-21T08:00:00Z');
  shp(join(field, 'sediment_samples'), points(random, 48, 'sample_no'), '2025-09-21T08:30:00Z');
  shp(join(field, 'eelgrass_cover'), areas(random, 40, 260, 'patch_no'), '2025-09-22T10:00:00Z');
  putCsv(join(field, 'tide_gauges.csv'), points(random, 5, 'gauge_no'), '2025-09-22T11:00:00Z');
  putGeoJson(join(field, 'moorings_counted.geojson'), toDegrees(points(random, 130, 'mooring_no')), '2025-09-22T12:00:00Z');
  const earlier = join(received, 'field_2019');
  shp(join(earlier, 'seagrass_beds_2019'), areas(random, 71, 400, 'bed_name'), '2019-10-02T15:00:00Z');
  shp(join(earlier, 'transects_2019'), lines(random, 15, 'transect_no'), '2019-10-02T15:10:00Z');
  const photo = join(received, 'aerial_2024');
  const north = { width: 160, height: 100, epsg: 32624, left: BAY.minx, top: BAY.maxy, pixel: 40 };
  put(join(photo, 'bay_north.tif'), writeGeoTiff({ ...north, values: picture(random, 160, 100) }), '2024-06-30T13:00:00Z');
  put(
    join(photo, 'bay_south.tif'),
    writeGeoTiff({ ...north, top: BAY.miny + 3000, values: picture(random, 160, 100) }),
    '2024-06-30T13:05:00Z',
  );
  put(join(received, 'read_me.txt'), 'Received data stays as it came. Work on copies in derived.\n', '2025-02-03T10:00:00Z');
  protect(received);
}

function makeDerived(root: string, random: Random, shp: Shp): void {
  const derived = join(root, 'derived');
  for (const [name, f] of [
    ['swing_circles', areas(random, 32, 120, 'circle_no')],
    ['chain_lengths', lines(random, 32, 'chain_no')],
    ['anchor_blocks', points(random, 32, 'block_no')],
    ['moorings_proposed', points(random, 24, 'mooring_no')],
  ] as const)
    shp(join(derived, 'moorings', name), f, '2026-01-15T09:00:00Z');
  for (const [name, f] of [
    ['beds_lost', areas(random, 17, 300, 'bed_name')],
    ['beds_gained', areas(random, 12, 280, 'bed_name')],
    ['beds_stable', areas(random, 38, 350, 'bed_name')],
    ['bed_centres', points(random, 67, 'centre_no')],
    ['change_lines', lines(random, 20, 'change_no')],
  ] as const)
    shp(join(derived, 'change', name), f, '2026-02-11T10:30:00Z');
  put(
    join(derived, 'bed_density.tif'),
    writeGeoTiff({
      width: 90,
      height: 60,
      epsg: 32624,
      left: BAY.minx,
      top: BAY.maxy,
      pixel: 100,
      values: depths(random, 90, 60),
      nodata: -9999,
    }),
    '2026-02-12T08:00:00Z',
  );
  const rows = Array.from({ length: 30 }, (_, row) =>
    Array.from({ length: 45 }, (__, col) => {
      const isOutside = random() < 0.1;
      return isOutside && row < 3 ? -9999 : slopeAt(col, row, isOutside ? 0.5 : random());
    }).join(' '),
  );
  put(
    join(derived, 'bottom_slope.asc'),
    ['ncols 45', 'nrows 30', `xllcorner ${BAY.minx}`, `yllcorner ${BAY.miny}`, 'cellsize 200', 'NODATA_value -9999', ...rows, ''].join(
      '\n',
    ),
    '2026-02-12T08:10:00Z',
  );
  put(join(derived, 'bottom_slope.prj'), UTM_24N, '2026-02-12T08:10:00Z');
  const beds = areas(random, 64, 420, 'bed_name');
  putGeopackage(
    join(root, 'geodatabases', 'ellisande.gpkg'),
    [
      { name: 'monitoring_sites', features: points(random, 26, 'site_no'), srsId: 32624 },
      { name: 'protected_zones', features: areas(random, 6, 1200, 'zone_name'), srsId: 32624 },
      { name: 'seagrass_all_years', features: beds, srsId: 32624 },
      { name: 'site_visits', features: points(random, 80, 'visit_no'), srsId: 32624, plain: true },
    ],
    DEFINITIONS,
    '2026-02-20T17:00:00Z',
  );
  putGeoJson(join(root, 'delivered', 'exclusion_zone.geojson'), toDegrees(areas(random, 2, 900, 'zone_name')), '2026-03-01T12:00:00Z');
  put(
    join(root, 'documents', 'method.md'),
    '# Method\n\nBeds are drawn from drop-camera stills and aerial pictures; see the report.\n',
    '2026-03-02T08:00:00Z',
  );
}

function makeShare(share: string, random: Random, shp: Shp): void {
  const base = join(share, 'base_library');
  putGeopackage(
    join(base, 'coastline.gpkg'),
    [{ name: 'land', features: toDegrees(areas(random, 9, 1500, 'island_nm')), srsId: 4326 }],
    DEFINITIONS,
    '2023-05-04T06:00:00Z',
  );
  shp(join(base, 'harbour_limits'), toDegrees(areas(random, 3, 800, 'harbour_nm')), '2023-05-04T06:10:00Z', GEOGRAPHIC);
  shp(join(base, 'shipping_lanes'), lines(random, 4, 'lane_no'), '2023-05-04T06:20:00Z', WORLD_MERCATOR);
  putCsv(join(base, 'place_names.csv'), toDegrees(points(random, 35, 'place_nm')), '2023-05-04T06:30:00Z');
  shp(join(share, 'other_team', 'wind_stations'), points(random, 8, 'station_no'), '2024-01-10T09:00:00Z');
}
