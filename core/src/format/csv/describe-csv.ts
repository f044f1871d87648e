import type { CrsTable } from '../../crs/crs-table.js';
import { crsOfCode } from '../../crs/identify.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import {
  emptyDescription,
  unreadable,
  type Description,
  type Extent,
  type Field,
  type FileGroup,
  type Finding,
} from '../../dataset/dataset.js';
import { endingOf } from '../../dataset/formats.js';
import { explain, ProblemError } from '../../problem.js';
import { commonKind, kindOfWkb, readWkb } from '../../geometry/read-wkb.js';
import { wktToWkb } from '../../geometry/wkt-to-wkb.js';
import { ExtentOf } from '../../xml/read-xml.js';
import { readSidePrj } from '../../raster/side-files.js';
import { coordinatesOfCsvt, fieldTypeOf, typesOfCsvt } from './csvt.js';
import { findCoordinates, isOnGlobe, type CoordinateColumns, type ShapeColumns } from '../../dataset/coordinate-columns.js';
import { ColumnType } from './column-type.js';
import { CSVW_ENDING, statedLayout } from './csvw.js';
import { csvRows, layoutOf, type CsvLayout } from './csv-rows.js';
import { areNames, isHeader, madeUpNames, MOST_FIELDS, namesOf } from './header.js';
import { positionOf } from './position-of.js';

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
  const dialect = statedLayout(group, open);
  const layout = layoutOf(source, dialect);
  const stated = csvtOf(group, open);
  const summary = summarise(csvRows(source, layout, group.path), stated, layout.hasNames);
  const findings = findingsOf(group.path, layout, summary, dialect.fault);
  const { fields, first } = summary;
  const table: Description = { ...emptyDescription('table'), featureCount: summary.count, fields, findings };
  const columns = stated ? coordinatesOfCsvt(stated) : findCoordinates(fields, first);
  if (!columns) return table;
  const rows = (): Iterable<string[]> => withoutNames(csvRows(source, layout, group.path), layout, fields);
  const found =
    columns.kind === 'wkt'
      ? shapesOf(columns.column, rows())
      : [columns.x, columns.y].some((c) => fields[c]?.writtenAs !== undefined)
        ? pointsOf(columns, rows(), fields)
        : summary.extentOf(columns);
  if (!found) return table;
  const isWgs84 = columns.kind === 'xy' && columns.isGeographic && isOnGlobe(found.bbox);
  return {
    ...table,
    kind: 'vector',
    ...found,
    crs: readSidePrj(group, open, crs) ?? (isWgs84 ? crsOfCode('EPSG:4326', crs) : null),
  };
}

function findingsOf(
  path: string,
  layout: CsvLayout,
  { count, uneven, fields, hasNames, open, otherwise }: Summary,
  fault: string | null,
): Finding[] {
  const findings: Finding[] = [];
  const add = (code: string, message: string, fix?: string): void => void findings.push({ code, message, ...(fix ? { fix } : {}) });
  const named = (chosen: readonly string[]): string =>
    chosen.slice(0, MOST_NAMED).join(', ') + (chosen.length > MOST_NAMED ? ' and more' : '');
  if (fault !== null) add('csvw-unclear', `${path}${CSVW_ENDING} is not followed: ${fault}.`);
  if (uneven > 0) add('uneven-rows', `${path}: ${uneven} of ${count} rows have more or fewer values than there are field names.`);
  if (layout.confidence < 1)
    add(
      'encoding-guessed',
      `${path} does not say how its letters are encoded: it is read as ${layout.encoding}, guessed from them (${Math.round(layout.confidence * 100)} % sure).`,
      'Look at letters with accents; where they are wrong, say how it is read.',
    );
  if (!hasNames && count > 0 && layout.hasNames === null)
    add('no-names', `${path} has values in its first row, as far as they tell: its columns are called field_1, field_2 and so on.`);
  const commas = fields.filter((f) => f.writtenAs === 'comma').map((f) => f.name);
  if (commas.length > 0) add('decimal-comma', `${path}: the numbers of ${named(commas)} are read with a decimal comma, guessed from them.`);
  const months = fields.filter((f) => f.writtenAs === 'month-first').map((f) => f.name);
  if (months.length > 0)
    add('month-first', `${path}: the dates of ${named(months)} are read with the month first, since no other way fits.`);
  if (open.length > 0)
    add(
      'two-ways',
      `${path}: the values of ${named(open)} could be read in two ways, as numbers with a comma or a point, or as dates. They are kept as text.`,
      'Say their type in a .csvt beside it, or export the table again with a decimal point and dates as 2025-12-31.',
    );
  if (otherwise.length > 0)
    add(
      'csvt-differs',
      `${path}: the .csvt beside it states another type for ${named(otherwise)} than its values have. They are kept as text.`,
    );
  return findings;
}

const MOST_NAMED = 5;

/** The types that a `.csvt` beside the table lists; null: there is none. */
function csvtOf(group: FileGroup, open: (path: string) => ByteSource): readonly string[] | null {
  const csvt = group.companions.find((f) => endingOf(f.path) === 'csvt');
  return csvt ? typesOfCsvt(new TextDecoder().decode(open(csvt.path).read(0, 1 << 16))) : null;
}

/** The first row is the names of the columns: as is stated, or since the fields are called so. */
export const isNames = (row: readonly string[], { hasNames }: CsvLayout, fields: readonly Field[]): boolean =>
  hasNames ?? areNames(row, fields);

function* withoutNames(rows: Iterable<string[]>, layout: CsvLayout, fields: readonly Field[]): Generator<string[]> {
  let isFirst = true;
  for (const row of rows) {
    if (!isFirst || !isNames(row, layout, fields)) yield row;
    isFirst = false;
  }
}

/** Extent of points whose numbers are not written as programs write them. */
function pointsOf(columns: CoordinateColumns, rows: Iterable<string[]>, fields: readonly Field[]): Shapes | null {
  const extent = new ExtentOf();
  for (const row of rows) {
    const [x, y] = positionOf(row, columns, fields);
    if (!Number.isNaN(x) && !Number.isNaN(y)) extent.add(x, y);
  }
  return extent.bbox && { geometryType: 'Point', bbox: extent.bbox };
}

/** Which columns hold coordinates or shapes: a `.csvt` decides, otherwise their names and the first row of values do. */
export function shapeColumns(
  group: FileGroup,
  open: (path: string) => ByteSource,
  fields: readonly Field[],
  first: readonly string[],
): ShapeColumns | null {
  const stated = csvtOf(group, open);
  return stated ? coordinatesOfCsvt(stated) : findCoordinates(fields, first);
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

interface Summary {
  readonly fields: readonly Field[];
  readonly hasNames: boolean;
  readonly count: number;
  readonly uneven: number;
  /** The first row of values. */
  readonly first: readonly string[];
  /** Columns whose values could be read in two ways, and those of which a `.csvt` states another type. */
  readonly open: readonly string[];
  readonly otherwise: readonly string[];
  extentOf(columns: CoordinateColumns): Shapes | null;
}

/** Keeps counts, and what each column may be. */
function summarise(rows: Iterable<string[]>, stated: readonly string[] | null, saysNames: boolean | null): Summary {
  const columns: ColumnType[] = [];
  let top: readonly string[] | null = null;
  let second: readonly string[] | null = null;
  let width = 0;
  let below = 0;
  let uneven = 0;
  const learn = (row: readonly string[]): void => {
    for (let i = 0; i < row.length && i < top!.length; i++) {
      const value = row[i]!.trim();
      if (value !== '') (columns[i] ??= new ColumnType()).add(value);
    }
  };
  for (const row of rows) {
    if (top === null) {
      width = row.length;
      top = row.slice(0, MOST_FIELDS);
      continue;
    }
    if (below++ === 0) second = row.slice(0, MOST_FIELDS);
    if (row.length !== width) uneven++;
    learn(row);
  }
  const all = top?.map((_, i) => columns[i] ?? new ColumnType()) ?? [];
  const hasNames = top === null || (saysNames ?? isHeader(top, all, below));
  if (top !== null && !hasNames) learn(top);
  const names = top === null ? [] : hasNames ? namesOf(top) : madeUpNames(top.length);
  const isComma = columns.some((c) => c?.showsComma);
  const open: string[] = [];
  const otherwise: string[] = [];
  const fields = names.map((name, i): Field => {
    const { isOpen, ...found } = (columns[i] ?? new ColumnType()).decide(isComma);
    const wanted = stated?.[i] === undefined ? null : fieldTypeOf(stated[i]);
    if (wanted === 'text') return { name, type: 'text' };
    if (wanted !== null && columns[i] !== undefined) {
      const given = columns[i].as(wanted);
      if (given) return { name, ...given };
      otherwise.push(name);
      return { name, type: 'text' };
    }
    if (isOpen) open.push(name);
    return { name, ...found };
  });
  return {
    fields,
    hasNames,
    count: hasNames ? below : below + 1,
    uneven,
    first: (hasNames ? second : top) ?? [],
    open,
    otherwise,
    extentOf: ({ x, y }) => {
      const [xs, ys] = [columns[x]?.extremes, columns[y]?.extremes];
      return xs && ys ? { geometryType: 'Point', bbox: [xs[0], ys[0], xs[1], ys[1]] } : null;
    },
  };
}
