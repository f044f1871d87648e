import { chmodSync, readdirSync } from 'node:fs';
import { join } from '@rootmap/engine';
import { GEOGRAPHIC, UTM_24N, WORLD_MERCATOR, DEFINITIONS } from './crs-texts.js';
import { fairway } from './fairways.js';
import { along, circle, downhill, GRASS, lanes, near, onCoast, patch, rounded, SEA, somewhere, spread, type Band } from './ground.js';
import { isolines, land } from './isolines.js';
import { PLACE_NAMES } from './place-names.js';
import { between, seeded, type Random } from './random.js';
import { bedDensity, bottomSlope, depthModel, pictureOf, RELIEF_SIDE, relief } from './rasters.js';
import { areas, areasOf, linesOf, points, pointsOf, toDegrees, toMercator, type Features } from './shapes.js';
import { BAY, type Position } from './terrain.js';
import { put, putCsv, putGeoJson, putShapefile } from './write-data.js';
import { putGeopackage } from './write-geopackage.js';
import { writeGeoTiff } from './write-geotiff.js';

const SEED = 20_260_311;

/** How much there is: `full` as folders of real jobs have it, `small` where a large raster and a long table would only take time. */
export type Size = 'full' | 'small';
const SOUNDINGS: Record<Size, number> = { full: 200_000, small: 400 };

const HARBOUR: Position = [481_380, 4_872_650];
const SEAWARD: Position = [486_900, 4_868_100];
const WEST_COVE: Position = [480_000, 4_871_900];
const EAST_SOUND: Position = [485_500, 4_872_100];

/** All data of the study, where it stood when its maps were drawn. */
export function makeEllisandeData(root: string, share: string, stick: string, size: Size): void {
  const shp = (path: string, f: Features, when: string, prj: string | null = UTM_24N): void => putShapefile(path, f, prj, when);
  const study = new Study(seeded(SEED));
  makeReceived(join(root, 'received'), study, shp);
  makeDerived(root, study, shp, size);
  makeShare(share, study, shp, size);
  const { random } = study;
  const tracks = lanes(random, 14, 482_400, 485_900, 4_870_500, 130, 0.35);
  shp(join(stick, 'june_dives', 'survey_tracks'), linesOf(tracks, 'track_id'), '2026-06-12T16:20:00Z');
  const dives = Array.from({ length: 60 }, () => near(random, tracks.flat(), 40, [1, 30]));
  putGeoJson(join(stick, 'june_dives', 'dive_points.geojson'), toDegrees(pointsOf(random, dives, 'dive_no')), '2026-06-12T16:25:00Z');
  for (const [name, f] of Object.entries(scourFigures())) shp(join(root, 'derived', 'scour', name), f, '2026-03-03T13:00:00Z');
  shp(join(root, 'derived', 'rings', 'bare_rings'), bareRings(), '2026-03-03T13:30:00Z');
}

const JETTIES = ['Old jetty', 'Rør landing', 'Mäder stage', 'Quai neuf, côté mer', 'Skär', 'Nieuwe steiger'];

/** What several datasets share: beds of two years, moorings, the way in. */
class Study {
  readonly fairways: readonly (readonly Position[])[];
  /** Middles of beds: 38 that stayed, 17 that went, 12 that came; and others that were seen in one year only. */
  readonly beds: { readonly stable: readonly Bed[]; readonly lost: readonly Bed[]; readonly gained: readonly Bed[] };
  readonly moorings: readonly Position[];

  constructor(readonly random: Random) {
    this.fairways = [fairway(SEAWARD, HARBOUR), fairway([478_200, 4_868_600], HARBOUR), fairway([486_850, 4_870_300], EAST_SOUND)];
    const middles = spread(67, 330, () => somewhere(random, GRASS));
    const beds = middles.map((at): Bed => ({ at, radius: between(random, 150, 420) }));
    this.beds = { stable: beds.slice(0, 38), lost: beds.slice(38, 55), gained: beds.slice(55) };
    this.moorings = moorings();
  }
}
interface Bed {
  readonly at: Position;
  readonly radius: number;
}
const drawn = (random: Random, beds: readonly Bed[], share: number): Position[][][] =>
  beds.map(({ at, radius }) => [patch(random, at, radius * share, GRASS)]);

/** Of today: in the lee, where the water is shallow enough for a chain. */
const moorings = (): readonly Position[] => {
  const random = seeded(SEED + 4);
  return spread(130, 55, () => near(random, [HARBOUR, WEST_COVE, EAST_SOUND], 620, [1.5, 9]));
};

/** What chains scrape off the bottom: three datasets that become tables of one geodatabase later. */
export function scourFigures(): Record<'scour_marks' | 'drag_lines' | 'probe_holes', Features> {
  const random = seeded(SEED + 1);
  const blocks = moorings();
  const numbered = (f: Features): Features => ({
    ...f,
    fields: f.fields.map((field) => (field.name === 'id' ? { ...field, name: 'mark_id' } : field)),
  });
  const marks = blocks.slice(0, 44).map((at) => [patch(random, at, between(random, 18, 34), [0.5, 20])]);
  return {
    scour_marks: numbered(areasOf(random, marks, 'mark_no')),
    drag_lines: numbered(
      linesOf(
        blocks.slice(44, 75).map((at) => downhill(at, 9, 6)),
        'drag_no',
      ),
    ),
    probe_holes: numbered(
      pointsOf(
        random,
        Array.from({ length: 73 }, () => near(random, blocks, 45)),
        'probe_no',
      ),
    ),
  };
}

/** Without growth, where a chain goes round; the block in the middle keeps some. */
function bareRings(): Features {
  const random = seeded(SEED + 2);
  return areasOf(
    random,
    moorings()
      .slice(0, 27)
      .map((at) => {
        const radius = between(random, 22, 38);
        return [circle(at, radius), [...circle(at, radius * 0.35, 18)].reverse()];
      }),
    'ring_no',
  );
}

/** Originals are read-only. */
function protect(folder: string): void {
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true }))
    if (entry.isFile()) chmodSync(join(entry.parentPath, entry.name), 0o444);
}

type Shp = (path: string, f: Features, when: string, prj?: string | null) => void;

/** Depth contours, the shallow ones first; each knows its depth. */
function depthContours(): Features {
  const levels = [2, 5, 10, 15, 20, 25, 30];
  const found = levels.flatMap((depth) => isolines(-depth).map((line) => ({ depth, line })));
  const longest = found.sort((a, b) => b.line.length - a.line.length).slice(0, 40);
  const depths = new Map(longest.map(({ depth, line }) => [line as readonly Position[], depth]));
  return linesOf([...depths.keys()], 'contour_id', (line) => depths.get(line)!);
}

/** Buoys in pairs along the ways in, and one at the end. */
function buoysAlong(fairways: readonly (readonly Position[])[]): Position[] {
  const pairs = fairways.flatMap((line, k) => {
    const spots = along(line, [6, 3, 2][k]!);
    const ahead = along(line.slice(1), [6, 3, 2][k]!);
    return spots.flatMap(([x, y], i): Position[] => {
      const [dx, dy] = [ahead[i]![0] - x, ahead[i]![1] - y];
      const length = Math.hypot(dx, dy) || 1;
      const [nx, ny] = [(-dy / length) * 110, (dx / length) * 110];
      return [rounded([x + nx, y + ny]), rounded([x - nx, y - ny])];
    });
  });
  return pairs;
}

function makeReceived(received: string, { random, fairways, beds, moorings }: Study, shp: Shp): void {
  const hydro = join(received, 'hydro_office');
  put(join(hydro, 'depth_model.tif'), writeGeoTiff(depthModel()), '2025-02-03T09:00:00Z');
  shp(join(hydro, 'fairway'), linesOf(fairways, 'fairway_nm'), '2025-02-03T09:05:00Z');
  shp(join(hydro, 'depth_contours'), depthContours(), '2025-02-03T09:10:00Z');
  shp(join(hydro, 'buoys'), pointsOf(random, buoysAlong(fairways), 'buoy_nm'), '2025-02-03T09:15:00Z');
  shp(join(hydro, 'lights'), pointsOf(random, onCoast(9, HARBOUR), 'light_nm'), '2025-02-03T09:15:30Z');
  putCsv(join(hydro, 'soundings.csv'), points(random, 400, 'sounding_no'), '2025-02-03T09:20:00Z');
  putGeoJson(join(hydro, 'chart_limits.geojson'), toDegrees(areasOf(random, sheets(), 'chart_no')), '2025-02-03T09:25:00Z');
  const field = join(received, 'field_2025');
  const now = [...beds.stable, ...beds.gained];
  const others = spread(64 - now.length, 300, () => somewhere(random, GRASS)).map((at): Bed => ({ at, radius: 160 }));
  shp(join(field, 'seagrass_beds_2025'), areasOf(random, drawn(random, [...now, ...others], 1), 'bed_name'), '2025-09-20T14:00:00Z');
  const transects = spread(18, 500, () => somewhere(random, [0.8, 2])).map((at) => downhill(at, 40, 8));
  shp(join(field, 'transects'), linesOf(transects, 'transect_no'), '2025-09-20T14:10:00Z');
  const stills = Array.from({ length: 210 }, () => near(random, transects.flat(), 18, [0.6, 30]));
  shp(join(field, 'drop_camera'), pointsOf(random, stills, 'still_no'), '2025-09-21T08:00:00Z');
  const samples = spread(48, 600, () => somewhere(random, SEA));
  shp(join(field, 'sediment_samples'), pointsOf(random, samples, 'sample_no'), '2025-09-21T08:30:00Z');
  const patches = Array.from({ length: 40 }, () => [
    patch(
      random,
      near(
        random,
        now.map((b) => b.at),
        120,
        GRASS,
      ),
      between(random, 60, 150),
      GRASS,
    ),
  ]);
  shp(join(field, 'eelgrass_cover'), areasOf(random, patches, 'patch_no'), '2025-09-22T10:00:00Z');
  putCsv(join(field, 'tide_gauges.csv'), pointsOf(random, onCoast(5, WEST_COVE), 'gauge_no'), '2025-09-22T11:00:00Z');
  putGeoJson(join(field, 'moorings_counted.geojson'), toDegrees(pointsOf(random, moorings, 'mooring_no')), '2025-09-22T12:00:00Z');
  const earlier = join(received, 'field_2019');
  const before = [...beds.stable, ...beds.lost];
  const gone = spread(71 - before.length, 300, () => somewhere(random, GRASS)).map((at): Bed => ({ at, radius: 190 }));
  shp(join(earlier, 'seagrass_beds_2019'), areasOf(random, drawn(random, [...before, ...gone], 1.12), 'bed_name'), '2019-10-02T15:00:00Z');
  const sameLines = transects.slice(0, 15).map((line) => line.map(([x, y]) => rounded([x + 12, y - 8])));
  shp(join(earlier, 'transects_2019'), linesOf(sameLines, 'transect_no'), '2019-10-02T15:10:00Z');
  const photo = join(received, 'aerial_2024');
  put(join(photo, 'bay_north.tif'), writeGeoTiff(pictureOf(random, BAY.maxy)), '2024-06-30T13:00:00Z');
  put(join(photo, 'bay_south.tif'), writeGeoTiff(pictureOf(random, BAY.miny + 3000)), '2024-06-30T13:05:00Z');
  put(join(received, 'read_me.txt'), 'Received data stays as it came. Work on copies in derived.\n', '2025-02-03T10:00:00Z');
  protect(received);
}

/** Four sheets of a chart that overlap by a strip. */
function sheets(): Position[][][] {
  const [middleX, middleY, over] = [(BAY.minx + BAY.maxx) / 2, (BAY.miny + BAY.maxy) / 2, 150];
  return [0, 1, 2, 3].map((k) => {
    const [west, east] = k % 2 === 0 ? [BAY.minx, middleX + over] : [middleX - over, BAY.maxx];
    const [south, north] = k < 2 ? [middleY - over, BAY.maxy] : [BAY.miny, middleY + over];
    return [
      [
        [west, south],
        [west, north],
        [east, north],
        [east, south],
        [west, south],
      ],
    ];
  });
}

function makeDerived(root: string, study: Study, shp: Shp, size: Size): void {
  const { random } = study;
  const derived = join(root, 'derived');
  makeMoorings(join(derived, 'moorings'), study, shp);
  makeChange(derived, study, shp);
  const sites = spread(26, 700, () => somewhere(random, [1, 12]));
  putGeopackage(
    join(root, 'geodatabases', 'ellisande.gpkg'),
    [
      { name: 'monitoring_sites', features: pointsOf(random, sites, 'site_no'), srsId: 32624 },
      { name: 'protected_zones', features: areas(random, 6, 1200, 'zone_name', [0.3, 14]), srsId: 32624 },
      { name: 'seagrass_all_years', features: areas(random, 64, 420, 'bed_name'), srsId: 32624 },
      {
        name: 'site_visits',
        features: pointsOf(
          random,
          Array.from({ length: 80 }, (_, i) => sites[i % sites.length]!),
          'visit_no',
        ),
        srsId: 32624,
        plain: true,
      },
    ],
    DEFINITIONS,
    '2026-02-20T17:00:00Z',
  );
  if (size === 'full')
    putGeopackage(
      join(root, 'geodatabases', 'soundings.gpkg'),
      [{ name: 'soundings_2025', features: soundedLanes(SOUNDINGS[size]), srsId: 32624 }],
      DEFINITIONS,
      '2026-02-21T09:00:00Z',
    );
  const zone: Band = [0.3, 16];
  const zones = [near(random, [WEST_COVE], 300, GRASS), near(random, [EAST_SOUND], 500, GRASS)].map((at) => [patch(random, at, 800, zone)]);
  putGeoJson(join(root, 'delivered', 'exclusion_zone.geojson'), toDegrees(areasOf(random, zones, 'zone_name')), '2026-03-01T12:00:00Z');
  put(
    join(root, 'documents', 'method.md'),
    '# Method\n\nBeds are drawn from drop-camera stills and aerial pictures; see the report.\n',
    '2026-03-02T08:00:00Z',
  );
}

function makeMoorings(folder: string, { random, moorings }: Study, shp: Shp): void {
  const blocks = moorings.slice(0, 32);
  const chains = blocks.map((at) => ({ at, length: between(random, 22, 40), heading: random() * 2 * Math.PI }));
  const clear = spread(24, 140, () => near(random, [HARBOUR, WEST_COVE, EAST_SOUND], 900, [8, 16]));
  for (const [name, f] of [
    [
      'swing_circles',
      areasOf(
        random,
        chains.map(({ at, length }) => [circle(at, length)]),
        'circle_no',
      ),
    ],
    [
      'chain_lengths',
      linesOf(
        chains.map(({ at: [x, y], length, heading }) =>
          Array.from({ length: 8 }, (_, i) =>
            rounded([x + (Math.cos(heading + i * 0.04) * length * i) / 7, y + (Math.sin(heading + i * 0.04) * length * i) / 7]),
          ),
        ),
        'chain_no',
      ),
    ],
    ['anchor_blocks', pointsOf(random, blocks, 'block_no')],
    ['moorings_proposed', pointsOf(random, clear, 'mooring_no')],
  ] as const)
    shp(join(folder, name), f, '2026-01-15T09:00:00Z');
}

function makeChange(derived: string, { random, beds }: Study, shp: Shp): void {
  const all = [...beds.stable, ...beds.lost, ...beds.gained];
  for (const [name, f] of [
    ['beds_lost', areasOf(random, drawn(random, beds.lost, 1.12), 'bed_name')],
    ['beds_gained', areasOf(random, drawn(random, beds.gained, 1), 'bed_name')],
    ['beds_stable', areasOf(random, drawn(random, beds.stable, 1), 'bed_name')],
    [
      'bed_centres',
      pointsOf(
        random,
        all.map((b) => b.at),
        'centre_no',
      ),
    ],
    [
      'change_lines',
      linesOf(
        all.slice(0, 20).map(({ at, radius }) => downhill(at, radius / 9, 8)),
        'change_no',
      ),
    ],
  ] as const)
    shp(join(derived, 'change', name), f, '2026-02-11T10:30:00Z');
  put(join(derived, 'bed_density.tif'), writeGeoTiff(bedDensity(all)), '2026-02-12T08:00:00Z');
  put(join(derived, 'bottom_slope.asc'), bottomSlope(), '2026-02-12T08:10:00Z');
  put(join(derived, 'bottom_slope.prj'), UTM_24N, '2026-02-12T08:10:00Z');
}

/** Soundings of a boat that went up and down the whole bay. */
function soundedLanes(count: number): Features {
  const random = seeded(SEED + 3);
  const each = Math.ceil(count / 60);
  const spots: Position[] = [];
  for (let k = 0; spots.length < count; k++)
    for (let i = 0; i < each * 1.4 && spots.length < count; i++) {
      const at: Position = [
        BAY.minx + 20 + ((BAY.maxx - BAY.minx - 40) * i) / (each * 1.4),
        BAY.miny + 15 + (((k * 4600) / 60) % 5900) + between(random, -6, 6),
      ];
      spots.push(rounded(at));
    }
  return pointsOf(random, spots, 'sounding_no');
}

function makeShare(share: string, { random, fairways }: Study, shp: Shp, size: Size): void {
  const base = join(share, 'base_library');
  putGeopackage(
    join(base, 'coastline.gpkg'),
    [{ name: 'land', features: toDegrees(areasOf(random, land(), 'island_nm')), srsId: 4326 }],
    DEFINITIONS,
    '2023-05-04T06:00:00Z',
  );
  const limits = [HARBOUR, WEST_COVE, EAST_SOUND].map((at) => [patch(random, near(random, [at], 200), 800, [0, 30])]);
  shp(join(base, 'harbour_limits'), toDegrees(areasOf(random, limits, 'harbour_nm')), '2023-05-04T06:10:00Z', GEOGRAPHIC);
  const lanesOut = [...fairways, fairway([486_850, 4_870_300], SEAWARD)];
  shp(join(base, 'shipping_lanes'), toMercator(linesOf(lanesOut, 'lane_no')), '2023-05-04T06:20:00Z', WORLD_MERCATOR);
  const named = pointsOf(random, onCoast(PLACE_NAMES.length, HARBOUR), 'place_nm', (i) => PLACE_NAMES[i]!);
  putCsv(join(base, 'place_names.csv'), toDegrees(named), '2023-05-04T06:30:00Z');
  if (size === 'full') put(join(base, 'relief_2019.tif'), writeGeoTiff(relief(RELIEF_SIDE)), '2019-11-20T10:00:00Z');
  const others = join(share, 'other_team');
  shp(join(others, 'wind_stations'), pointsOf(random, onCoast(8, EAST_SOUND), 'station_no'), '2024-01-10T09:00:00Z');
  // As another team leaves it: letters of one byte, and an origin that says whose it is, and no more.
  const jetties = pointsOf(random, onCoast(JETTIES.length, WEST_COVE), 'jetty_nm', (i) => JETTIES[i]!);
  putShapefile(join(others, 'jetties'), jetties, UTM_24N, '2009-08-21T07:40:00Z', true);
  const origin = {
    name: 'other_team',
    resources: [{ name: 'jetties', path: 'jetties.shp', sources: [{ title: 'Harbour office, by letter' }] }],
  };
  put(join(others, 'datapackage.json'), `${JSON.stringify(origin, null, 2)}\n`, '2024-01-10T09:10:00Z');
}
