import { existsSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { datasetId, groupBy, type Dataset } from '@rootmap/core';
import type { MapWorking, GeodatabasesView, GeodatabaseView, TableView } from '@rootmap/core/contract';
import { join, relative } from '../disk/native-path.js';
import { isSqliteError, NotADatabase, openGeopackage, type OpenedGeopackage } from '../geopackage/open-geopackage.js';
import { knownProjects } from '../move/known-maps.js';
import { reachedPaths } from '../move/reached-path.js';
import { confinementOf, presentLinks, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { tableReferences, type TableReference } from './tables/table-references.js';
import { surveyWithIndex, type IndexStore } from '../survey/survey-index.js';

const isGeodatabase = (name: string): boolean => /\.gpkg$/i.test(name);

/** Every geodatabase of a project and its links, empty ones too, with what is in it. */
export async function viewGeodatabases(scope: RootedScope, roots: readonly string[], index: IndexStore): Promise<GeodatabasesView> {
  const working = scope.project?.workingGeodatabase ?? null;
  const workingPath = working === null ? null : join(scope.root, working);
  const references = groupBy(tableReferences(knownProjects([scope.root, ...roots], scope.places), scope.places), (r) => r.path);
  const folders = [{ folder: scope.root, name: null }, ...presentLinks(scope)];
  const containers: GeodatabaseView[] = [];
  for (const { folder, name } of folders) {
    const confinedTo = confinementOf(folder, scope.places);
    const { datasets } = await surveyWithIndex(folder, index, { confinedTo });
    const { files } = listFiles(folder, { confinedTo, closely: (names) => new Set(names.filter(isGeodatabase)) });
    for (const { path, bytes } of files.filter((f) => isGeodatabase(f.path))) {
      const full = join(folder, path);
      const tables = datasets.filter((d) => d.group.path === path);
      const shown = { path: full, shownPath: path, link: name, bytes, isWorking: full === workingPath };
      containers.push({ ...shown, ...inside(full, tables, references.get(full) ?? []) });
    }
  }
  containers.sort((a, b) => Number(b.isWorking) - Number(a.isWorking));
  return { containers, working, isWorkingThere: containers.some((c) => c.isWorking), maps: mapsOf(scope) };
}

function inside(
  path: string,
  datasets: readonly Dataset[],
  references: readonly TableReference[],
): Pick<GeodatabaseView, 'tables' | 'freeBytes' | 'problem'> {
  const broken = datasets.find((d) => d.state === 'unreadable' && d.table === null);
  if (broken) return { tables: [], freeBytes: 0, problem: broken.findings[0]?.message ?? 'It cannot be read.' };
  let opened: OpenedGeopackage | null = null;
  try {
    opened = openGeopackage(path);
    const { db } = opened;
    const freeBytes = Number(db.pragma('freelist_count', { simple: true })) * Number(db.pragma('page_size', { simple: true }));
    const changed = db.prepare<[string], { at: string }>('SELECT last_change AS at FROM gpkg_contents WHERE table_name = ?');
    const indexes = new Set(db.prepare<[], string>("SELECT name FROM sqlite_master WHERE name LIKE 'rtree_%'").pluck(true).all());
    const pages = pagesOf(db, freeBytes);
    const tables = datasets.map((d): TableView => ({
      name: d.table ?? '',
      id: datasetId(path, d.table),
      kind: d.kind,
      geometry: d.geometryType,
      count: d.featureCount,
      crs: d.crs?.code ?? d.crs?.name ?? null,
      bbox: d.bbox,
      hasIndex: [...indexes].some((name) => name.startsWith(`rtree_${d.table}_`) && !/_(node|parent|rowid)$/.test(name)),
      bytes: pages && sumOf(pages.bytes, d.table ?? ''),
      lastChange: changed.get(d.table ?? '')?.at ?? null,
      usedBy: layersOf(references, d.table ?? '', datasets.length === 1),
    }));
    const problem = pages?.isDamaged ? 'Some of its pages are damaged. What can be read can be rescued into a new one.' : null;
    return { tables, freeBytes, problem };
  } catch (error) {
    if (!(error instanceof NotADatabase) && !isSqliteError(error)) throw error;
    return { tables: [], freeBytes: 0, problem: `It cannot be read: ${error.message}. Bring back an earlier copy.` };
  } finally {
    opened?.close();
  }
}

/** Layers that name a table; one that names none means the only one. */
const layersOf = (references: readonly TableReference[], table: string, isOnly: boolean): number =>
  new Set(references.filter((r) => r.table === table || (r.table === null && isOnly)).map((r) => `${r.map.path}\n${r.layer}`)).size;

/** What each map of the project says of where it works. */
function mapsOf(scope: RootedScope): MapWorking[] {
  const reached = reachedPaths(scope.places);
  return knownProjects([scope.root], scope.places).flatMap((p) =>
    p.maps.map(({ path, location, file }): MapWorking => {
      const full = file.working ? (reached(location, file.working.href)?.path ?? null) : null;
      const href = file.working?.href ?? null;
      return { map: relative(scope.root, path), title: file.title, href, path: full !== null && existsSync(full) ? full : null };
    }),
  );
}

/** Larger files are not looked through page by page each time somebody looks. */
const MOST_LOOKED_THROUGH = 64 << 20;

interface Pages {
  /** By the name of a table or an index. */
  readonly bytes: ReadonlyMap<string, number>;
  readonly isDamaged: boolean;
}

/** What SQLite's own table of pages tells. Null: it would take long. */
function pagesOf(db: Database.Database, freeBytes: number): Pages | null {
  const bytes = Number(db.pragma('page_count', { simple: true })) * Number(db.pragma('page_size', { simple: true }));
  if (bytes - freeBytes > MOST_LOOKED_THROUGH) return null;
  const rows = db
    .prepare<[], { name: string; bytes: bigint; damaged: bigint }>(
      "SELECT name, sum(pgsize) AS bytes, max(pagetype = 'corrupted') AS damaged FROM dbstat GROUP BY name",
    )
    .all();
  return { bytes: new Map(rows.map((r) => [r.name, Number(r.bytes)])), isDamaged: rows.some((r) => r.damaged > 0n) };
}

/** A table with the indexes of its shapes. */
function sumOf(sizes: ReadonlyMap<string, number>, table: string): number {
  const index = [...sizes].filter(([name]) => name.startsWith(`rtree_${table}_`) && /_(node|parent|rowid)$/.test(name));
  return (sizes.get(table) ?? 0) + index.reduce((sum, [, bytes]) => sum + bytes, 0);
}
