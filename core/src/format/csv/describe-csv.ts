import type { CrsTable } from '../../crs/identify.js';
import { crsOfCode } from '../../crs/identify.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import {
  emptyDescription,
  unreadable,
  type Description,
  type Extent,
  type Field,
  type FileGroup,
  type FieldType,
  type Finding,
} from '../../dataset/dataset.js';
import { endingOf } from '../../dataset/formats.js';
import { explain, ProblemError } from '../../problem.js';
import { commonKind, kindOfWkb, readWkb } from '../../geometry/read-wkb.js';
import { wktToWkb } from '../../geometry/wkt-to-wkb.js';
import { ExtentOf } from '../../xml/read-xml.js';
import { readSidePrj } from '../../raster/side-files.js';
import { coordinatesOfCsvt, findCoordinates, type CoordinateColumns, type ShapeColumns } from './coordinate-columns.js';
import { csvRows, layoutOf } from './csv-rows.js';

const MOST_FIELDS = 2000;
const LONGEST_NAME = 400;

/**
 * Field names, types, count and, where two columns hold coordinates, the points of a CSV or TSV. One streaming read in
 * bounded memory. Which columns hold coordinates is told by a `.csvt` beside it, else by their names.
 */
export function describeCsv(group: FileGroup, open: (path: string) => ByteSource, crs: CrsTable): Description {
  try {
    return describeRows(group, open, crs);
  } catch (error) {
    if (error instanceof ProblemError && error.problem.code === 'endless-record') return unreadable('table', explain(error.problem));
    throw error;
  }
}

function describeRows(group: FileGroup, open: (path: string) => ByteSource, crs: CrsTable): Description {
  const source = open(group.path);
  const layout = layoutOf(source);
  const summary = summarise(csvRows(source, layout, group.path));
  const findings: Finding[] = [];
  if (summary.uneven > 0)
    findings.push({
      code: 'uneven-rows',
      message: `${group.path}: ${summary.uneven} of ${summary.count} rows have more or fewer values than there are field names.`,
    });
  if (layout.confidence < 1)
    findings.push({
      code: 'encoding-guessed',
      message: `${group.path} does not say how its letters are encoded: it is read as ${layout.encoding}, guessed from them (${Math.round(layout.confidence * 100)} % sure).`,
      fix: 'Look at letters with accents; export it again as UTF-8 where they are wrong.',
    });
  const table: Description = { ...emptyDescription('table'), featureCount: summary.count, fields: summary.fields, findings };
  const columns = shapeColumns(group, open, summary.fields, summary.first);
  if (!columns) return table;
  const found = columns.kind === 'xy' ? summary.pointsOf(columns) : shapesOf(columns.column, csvRows(source, layout, group.path));
  if (!found) return table;
  const isWgs84 = columns.kind === 'xy' && columns.isGeographic && isOnGlobe(found.bbox);
  return {
    ...table,
    kind: 'vector',
    ...found,
    crs: readSidePrj(group, open, crs) ?? (isWgs84 ? crsOfCode('EPSG:4326', crs) : null),
  };
}

const isOnGlobe = ([minx, miny, maxx, maxy]: Extent): boolean => minx >= -180 && maxx <= 180 && miny >= -90 && maxy <= 90;

/** Which columns hold coordinates or shapes: a `.csvt` decides, otherwise their names and the first row of values do. */
export function shapeColumns(
  group: FileGroup,
  open: (path: string) => ByteSource,
  fields: readonly Field[],
  first: readonly string[],
): ShapeColumns | null {
  const csvt = group.companions.find((f) => endingOf(f.path) === 'csvt');
  return csvt ? coordinatesOfCsvt(new TextDecoder().decode(open(csvt.path).read(0, 1 << 16))) : findCoordinates(fields, first);
}

interface Shapes {
  readonly geometryType: string | null;
  readonly bbox: Extent;
}

/** Kind and extent of the shapes in a column of well-known text. */
function shapesOf(column: number, rows: Iterable<string[]>): Shapes | null {
  const kinds = new Set<string>();
  const extent = new ExtentOf();
  for (const row of rows) {
    const wkb = wktToWkb(row[column] ?? '');
    if (!wkb) continue;
    kinds.add(kindOfWkb(wkb) ?? 'Geometry');
    readWkb(wkb, { vertex: (x, y) => extent.add(x, y) });
  }
  return extent.bbox && { geometryType: commonKind(kinds), bbox: extent.bbox };
}

/** Names of the first row, made usable. */
const namesOf = (row: readonly string[]): string[] =>
  row.slice(0, MOST_FIELDS).map(
    (name, i) =>
      name
        .slice(0, LONGEST_NAME)
        .replace(/^\uFEFF/, '')
        .trim() || `field_${i + 1}`,
  );

interface Summary {
  readonly fields: readonly Field[];
  readonly count: number;
  readonly uneven: number;
  /** The first row of values. */
  readonly first: readonly string[];
  pointsOf(columns: CoordinateColumns): Shapes | null;
}

/** Keeps counts, the widest type and the range of each column. */
function summarise(rows: Iterable<string[]>): Summary {
  let names: string[] | null = null;
  const types: (FieldType | null)[] = [];
  const ranges: [number, number][] = [];
  let count = 0;
  let uneven = 0;
  let first: readonly string[] = [];
  for (const row of rows) {
    if (names === null) {
      names = namesOf(row);
      continue;
    }
    if (count++ === 0) first = row;
    if (row.length !== names.length) uneven++;
    for (let i = 0; i < row.length && i < names.length; i++) {
      const value = row[i]!.trim();
      if (value === '') continue;
      types[i] = widen(types[i] ?? null, value);
      const n = Number(value);
      const range = (ranges[i] ??= [Infinity, -Infinity]);
      if (n < range[0]) range[0] = n;
      if (n > range[1]) range[1] = n;
    }
  }
  return {
    fields: (names ?? []).map((name, i) => ({ name, type: types[i] ?? 'text' })),
    count,
    uneven,
    first,
    pointsOf: ({ x, y }) => {
      const [xs, ys] = [ranges[x], ranges[y]];
      return xs && ys && xs[0] <= xs[1] && ys[0] <= ys[1] ? { geometryType: 'Point', bbox: [xs[0], ys[0], xs[1], ys[1]] } : null;
    },
  };
}

function widen(type: FieldType | null, value: string): FieldType | null {
  if (type === 'text') return type;
  const own: FieldType = /^[-+]?\d{1,9}$/.test(value)
    ? 'integer'
    : /^[-+]?\d{10,18}$/.test(value)
      ? 'integer64'
      : /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$/.test(value)
        ? 'real'
        : 'text';
  if (type === null || own === type) return own;
  if (own === 'text') return 'text';
  return own === 'real' || type === 'real' ? 'real' : 'integer64';
}
