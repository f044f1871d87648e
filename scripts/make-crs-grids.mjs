// Makes engine/data/crs-grids.json: grids that shift a datum to one that is WGS 84 within its own accuracy, by the names that their
// publishers (NTv2) and PROJ (TIFF) give them: [file name in small letters, code of the geographic CRS that is shifted, metres to which it is known].
// Source: the registry in PROJ's database, method EPSG:9615. Run where proj-data is installed: node scripts/make-crs-grids.mjs
import Database from 'better-sqlite3';
import { readFileSync, writeFileSync } from 'node:fs';

const data = (name) => new URL(`../engine/data/${name}`, import.meta.url);
const definitions = new Map(JSON.parse(readFileSync(data('crs-definition.json'), 'utf8')).map(([code, string]) => [code, string]));
/** No shift to WGS 84 is applied to it. */
const isUnshifted = (code) => {
  const string = definitions.get(code) ?? '+towgs84=1';
  return !/\+towgs84=[^ ]*[1-9]/.test(string) && !/\+(nadgrids|datum=(?!WGS84|NAD83))/.test(string);
};
const WGS84 = 4326;
const db = new Database('/usr/share/proj/proj.db', { readonly: true });
const rows = db
  .prepare(
    `SELECT g.grid_name AS name, a.old_proj_grid_name AS other, a.proj_grid_name AS tiff, g.source_crs_code AS base, g.target_crs_code AS target, g.accuracy
     FROM grid_transformation g LEFT JOIN grid_alternatives a ON a.original_grid_name = g.grid_name AND a.inverse_direction = 0
     WHERE g.auth_name = 'EPSG' AND g.method_code = 9615 AND g.deprecated = 0 AND g.grid2_name IS NULL`,
  )
  .all();
// The French grid is published from the old datum to the new one, and registered the other way round.
const inverse = db
  .prepare(
    `SELECT a.old_proj_grid_name AS name, NULL AS other, a.proj_grid_name AS tiff, g.target_crs_code AS base, g.source_crs_code AS target, g.accuracy
     FROM grid_transformation g JOIN grid_alternatives a ON a.original_grid_name = g.grid_name AND a.inverse_direction = 1
     WHERE g.auth_name = 'EPSG' AND g.method_code = 9615 AND g.deprecated = 0 AND a.old_proj_grid_name <> ''`,
  )
  .all();
const grids = new Map();
for (const { name, other, tiff, base, target, accuracy } of [...rows, ...inverse]) {
  if (accuracy === null || !definitions.has(Number(base)) || !isUnshifted(Number(target)) || isUnshifted(Number(base))) continue;
  for (const file of [name, other, tiff]) {
    if (!file || !/\.(gsb|tif)$/i.test(file)) continue;
    const key = file.toLowerCase();
    const known = grids.get(key);
    // To WGS 84 itself, which is an ensemble known to a metre or two, the same grid is registered as less exact.
    if (known && (Number(target) === WGS84 || known[2] <= accuracy)) continue;
    grids.set(key, [key, Number(base), accuracy]);
  }
}
const all = [...grids.values()].sort((a, b) => a[1] - b[1] || a[2] - b[2] || (a[0] < b[0] ? -1 : 1));
writeFileSync(data('crs-grids.json'), `[\n${all.map((r) => JSON.stringify(r)).join(',\n')}\n]\n`);
console.log(`${all.length} grids`);
