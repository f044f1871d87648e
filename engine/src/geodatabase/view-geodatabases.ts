import type Database from 'better-sqlite3';
import { existsSync } from 'node:fs';
import { join, relative } from 'node:path';
import { datasetId, groupBy, parseReference, resolveIn, type Dataset } from '@rootmap/core';
import type { MapWorking, GeodatabasesView, GeodatabaseView, TableView } from '@rootmap/core/contract';
import { isSqliteError, NotADatabase, openGeopackage, type OpenedGeopackage } from '../geopackage/open-geopackage.js';
import { actualLocations } from '../move/actual-locations.js';
import { knownProjects } from '../move/known-maps.js';
import { pathAt } from '../move/plan-move.js';
import { confinementOf, presentLinks, type Scope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { tableReferences, type TableReference } from './tables/table-references.js';
import { surveyWithIndex, type IndexStore } from '../survey/survey-index.js';

const isGeodatabase = (name: string): boolean => /\.gpkg$/i.test(name);

/** Every geodatabase of a project and its links, empty ones too, with what is in it. */
export async function viewGeodatabases(scope: Scope, roots: readonly string[], index: IndexStore): Promise<GeodatabasesView> {
  const working = scope.project?.workingGeodatabase ?? null;
  const workingPath = working === null ? null : join(scope.root!, working);
  const references = groupBy(tableReferences(knownProjects([scope.root!, ...roots], scope.places), scope.places), (r) => r.path);
  const folders = [{ folder: scope.root!, name: null }, ...presentLinks(scope)];
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
    const sizes = bytesOf(db, freeBytes);
    const tables = datasets.map((d): TableView => ({
      name: d.table ?? '',
      id: datasetId(path, d.table),
      kind: d.kind,
      geometry: d.geometryType,
      count: d.featureCount,
      crs: d.crs?.code ?? d.crs?.name ?? null,
      bbox: d.bbox,
      hasIndex: [...indexes].some((name) => name.startsWith(`rtree_${d.table}_`) && !/_(node|parent|rowid)$/.test(name)),
      bytes: sizes && sumOf(sizes, d.table ?? ''),
      lastChange: changed.get(d.table ?? '')?.at ?? null,
      usedBy: layersOf(references, d.table ?? '', datasets.length === 1),
    }));
    return { tables, freeBytes, problem: null };
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
function mapsOf(scope: Scope): MapWorking[] {
  const actual = actualLocations(scope.places);
  return knownProjects([scope.root!], scope.places).flatMap((p) =>
    p.maps.map(({ path, location, file }): MapWorking => {
      const shown = { map: relative(scope.root!, path), title: file.title, href: file.working?.href ?? null };
      const parsed = file.working ? parseReference(file.working.href) : null;
      if (!parsed?.ok || parsed.value.kind === 'service') return { ...shown, path: null };
      const target = resolveIn(location, parsed.value, scope.places);
      if (target === 'above-root' || 'flavour' in target) return { ...shown, path: null };
      const full = pathAt(actual(target), scope.places);
      return { ...shown, path: existsSync(full) ? full : null };
    }),
  );
}

/** Larger files are not looked through page by page each time somebody looks. */
const MOST_LOOKED_THROUGH = 64 << 20;

/** Bytes of everything in the file by its name, as SQLite's table of pages has it. Null: it would take long. */
function bytesOf(db: Database.Database, freeBytes: number): Map<string, number> | null {
  const bytes = Number(db.pragma('page_count', { simple: true })) * Number(db.pragma('page_size', { simple: true }));
  if (bytes - freeBytes > MOST_LOOKED_THROUGH) return null;
  const rows = db.prepare<[], { name: string; bytes: bigint }>('SELECT name, pgsize AS bytes FROM dbstat WHERE aggregate = TRUE').all();
  return new Map(rows.map((r) => [r.name, Number(r.bytes)]));
}

/** A table with the indexes of its shapes. */
function sumOf(sizes: ReadonlyMap<string, number>, table: string): number {
  const index = [...sizes].filter(([name]) => name.startsWith(`rtree_${table}_`) && /_(node|parent|rowid)$/.test(name));
  return (sizes.get(table) ?? 0) + index.reduce((sum, [, bytes]) => sum + bytes, 0);
}
