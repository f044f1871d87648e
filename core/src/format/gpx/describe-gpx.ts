import { crsOfCode } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import { emptyDescription, unreadable, type Description, type Field, type FileGroup, type Finding } from '../../dataset/dataset.js';
import { ExtentOf, readXml } from '../../xml/read-xml.js';

/** Tables of a GPX file, in its own order (GPX 1.1, topografix.com/GPX/1/1: wptType, rteType, trkType). */
const TABLES = ['waypoints', 'routes', 'tracks'] as const;
type Table = (typeof TABLES)[number];
const TABLE_OF: Readonly<Record<string, Table>> = { wpt: 'waypoints', rte: 'routes', trk: 'tracks' };
const POINT_OF: Readonly<Record<string, Table>> = { wpt: 'waypoints', rtept: 'routes', trkpt: 'tracks' };
const GEOMETRY: Readonly<Record<Table, string>> = { waypoints: 'Point', routes: 'LineString', tracks: 'MultiLineString' };

interface Seen {
  count: number;
  points: number;
  heights: number;
  readonly extent: ExtentOf;
  readonly fields: Map<string, Field['type']>;
}

/** Waypoints, routes and tracks, each a table of its own where there are any. Longitude and latitude on WGS 84 (GPX 1.1). */
export function describeGpx(group: FileGroup, open: (path: string) => ByteSource, crs: CrsTable): Description[] {
  const seen: Record<Table, Seen> = { waypoints: nothing(), routes: nothing(), tracks: nothing() };
  const path: string[] = [];
  let isGpx = false;
  const fault = readXml(open(group.path), {
    open: (name, attributes) => {
      if (path.length === 0) isGpx = name === 'gpx';
      path.push(name);
      const table = path.length === 2 ? TABLE_OF[name] : undefined;
      if (table) seen[table].count++;
      const point = POINT_OF[name];
      if (point) {
        seen[point].points++;
        seen[point].extent.add(Number(attributes['lon']), Number(attributes['lat']));
      }
      const owner = name === 'ele' ? POINT_OF[path.at(-2) ?? ''] : undefined;
      if (owner) seen[owner].heights++;
      const parent = path.length === 3 ? TABLE_OF[path[1]!] : undefined;
      if (parent && !POINT_OF[name] && name !== 'trkseg' && name !== 'extensions') seen[parent].fields.set(name, typeOf(name));
    },
    text: () => undefined,
    close: () => void path.pop(),
  });
  if (fault !== null || !isGpx) return [unreadable('vector', `${group.path} cannot be read as GPX: ${fault ?? 'it begins otherwise'}.`)];
  const tables = TABLES.filter((t) => seen[t].count > 0);
  if (tables.length === 0) return [{ ...emptyDescription('vector'), featureCount: 0, crs: crsOfCode('EPSG:4326', crs) }];
  return tables.map((table) => ({
    ...emptyDescription('vector'),
    table,
    geometryType: GEOMETRY[table],
    featureCount: seen[table].count,
    fields: [...seen[table].fields].map(([name, type]) => ({ name, type })),
    crs: crsOfCode('EPSG:4326', crs),
    bbox: seen[table].extent.bbox,
    findings: heightsMissing(group.path, table, seen[table]),
  }));
}

/** A line has heights for all of its points, or for none. */
function heightsMissing(path: string, table: Table, { points, heights }: Seen): Finding[] {
  if (table === 'waypoints' || heights === 0 || heights === points) return [];
  const message = `${path}: ${points - heights} of ${points} points of its ${table} have no height. They get 0 where their line has heights.`;
  return [{ code: 'heights-missing', message }];
}

const nothing = (): Seen => ({ count: 0, points: 0, heights: 0, extent: new ExtentOf(), fields: new Map() });
const typeOf = (name: string): Field['type'] =>
  name === 'ele' || /dop$/.test(name) ? 'real' : name === 'time' ? 'datetime' : name === 'number' || name === 'sat' ? 'integer' : 'text';
