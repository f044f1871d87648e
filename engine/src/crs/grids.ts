import { statSync } from 'node:fs';
import { crsFacts, parseNtv2, parseShiftTiff, type ShiftGrid } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { readTable } from '../disk/crs-table.js';
import { diskProblem } from '../disk/disk-problem.js';
import { readdirSync, readFileSync } from '../disk/files.js';
import { gridsFolder } from '../disk/grids-folder.js';
import { inflate } from '../disk/inflate.js';
import { definitionOf, ownBaseOf } from './definitions.js';

/** `[file name in small letters, code of the geographic CRS that is shifted, metres]`, made by scripts/make-crs-grids.mjs. */
type Row = readonly [string, number, number];

interface GridFile {
  /** As the person's file is called. */
  readonly file: string;
  readonly metres: number;
  readonly grid: ShiftGrid;
}
/** What grids do for the datum of a CRS. */
export interface DatumGrids {
  /** The most exact first. */
  readonly there: readonly GridFile[];
  /** Names of those that are known for it and are not there. */
  readonly missing: readonly string[];
  /** Files that are there and cannot be read, with the reason. */
  readonly damaged: readonly string[];
}

const NONE: DatumGrids = { there: [], missing: [], damaged: [] };
let byDatum: Map<string, Row[]> | null = null;

function rowsOf(datum: string): readonly Row[] {
  if (!byDatum) {
    byDatum = new Map();
    for (const row of readTable<Row>('crs-grids.json')) {
      const of = datumOf(`EPSG:${row[1]}`);
      if (of !== null) byDatum.set(of, [...(byDatum.get(of) ?? []), row]);
    }
  }
  return byDatum.get(datum) ?? [];
}

/** Counted from another meridian than Greenwich, a datum has a name of its own in the registry, and the same shift. */
const MERIDIAN = / \(?(Athens|Bern|Bogota|Brussels|Ferro|Jakarta|Lisbon|Madrid|Oslo|Paris|Rome|Stockholm)\)?$/;
const datumOf = (key: string): string | null =>
  crsFacts(definitionOf(ownBaseOf(key) ?? key)?.wkt ?? '')?.datum?.replace(MERIDIAN, '') ?? null;

/** The grids that shift the datum of a CRS, as they lie in the folder now. @param key as from `crsKey` */
export function gridsFor(key: string): DatumGrids {
  const datum = datumOf(key);
  const rows = datum === null ? [] : rowsOf(datum);
  if (rows.length === 0) return NONE;
  const files = filesThere();
  const there: GridFile[] = [];
  const missing: string[] = [];
  const damaged: string[] = [];
  for (const [name, , metres] of [...rows].sort((a, b) => a[2] - b[2])) {
    const file = files.get(name);
    if (file === undefined) {
      if (!name.endsWith('.tif')) missing.push(name); // the same grid has the name of its publisher, too
      continue;
    }
    const grid = read(file);
    if (typeof grid === 'string') damaged.push(`${file}: ${grid}`);
    else there.push({ file, metres, grid });
  }
  return { there, missing, damaged };
}

/** Changes whenever another grid would be used for one of these CRSs: pictures are made anew then. */
export const gridsMark = (...keys: readonly (string | null)[]): string =>
  keys.flatMap((key) => (key === null ? [] : gridsFor(key).there.map((g) => g.file))).join('|');

/** By their names in small letters; the folder need not be there. */
function filesThere(): ReadonlyMap<string, string> {
  const folder = gridsFolder();
  if (folder === null) return new Map();
  try {
    return new Map(readdirSync(folder).map((file) => [file.toLowerCase(), file]));
  } catch (error) {
    if (diskProblem(error, folder)) return new Map();
    throw error;
  }
}

const opened = new Map<string, { readonly stamp: string; readonly grid: ShiftGrid | string }>();

function read(file: string): ShiftGrid | string {
  const path = join(gridsFolder()!, file);
  try {
    const { size, mtimeMs } = statSync(path);
    const stamp = `${path} ${size} ${mtimeMs}`;
    const known = opened.get(file);
    if (known?.stamp === stamp) return known.grid;
    const bytes = readFileSync(path);
    const grid = /\.tif$/i.test(file) ? parseShiftTiff(bytes, inflate) : parseNtv2(bytes);
    opened.set(file, { stamp, grid });
    return grid;
  } catch (error) {
    const problem = diskProblem(error, path);
    if (!problem) throw error;
    return 'it cannot be opened';
  }
}
