import { ProblemError } from '@rootmap/core';
import type { RootedScope } from '../project/scope.js';
import { databaseProblem, openGeopackage, type OpenedGeopackage } from '../geopackage/open-geopackage.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { dataAt, type FoundDataset } from '../project/find-dataset.js';
import { join } from '../disk/native-path.js';

/**
 * Which values may stand in the fields of a dataset: as written down beside it (Table Schema), else as its geodatabase lists them
 * (GeoPackage 1.3, annex F.9, Schema: constraints of type `enum`).
 */
export function expectedCodes(scope: RootedScope, found: FoundDataset): ReadonlyMap<string, readonly string[]> {
  const at = dataAt(found);
  return new Map([...listedIn(found), ...new Origins(keeperOf(scope)).codesOf(at.path, at.table)]);
}

function listedIn({ folder, dataset: { group, table } }: FoundDataset): Map<string, readonly string[]> {
  const lists = new Map<string, string[]>();
  if (group.format !== 'geopackage' || table === null) return lists;
  const path = join(folder, group.path);
  let opened: OpenedGeopackage | null = null;
  try {
    opened = openGeopackage(path);
    const { db, computed } = opened;
    if (['gpkg_data_columns', 'gpkg_data_column_constraints'].some((t) => computed.has(t))) return lists;
    const has = db
      .prepare("SELECT count(*) FROM sqlite_master WHERE name IN ('gpkg_data_columns', 'gpkg_data_column_constraints')")
      .pluck();
    if (Number(has.get()) !== 2) return lists;
    const rows = db
      .prepare(
        `SELECT c.column_name AS field, k.value AS code FROM gpkg_data_columns c
         JOIN gpkg_data_column_constraints k ON k.constraint_name = c.constraint_name
         WHERE k.constraint_type = 'enum' AND lower(c.table_name) = lower(?) LIMIT 100000`,
      )
      .all(table) as { field: string; code: string | null }[];
    for (const { field, code } of rows) if (code !== null) lists.set(field, [...(lists.get(field) ?? []), code]);
    return lists;
  } catch (error) {
    const problem = databaseProblem(error, path);
    throw problem ? new ProblemError(problem) : error;
  } finally {
    opened?.close();
  }
}
