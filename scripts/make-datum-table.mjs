// Makes engine/data/datum-shift.json from the EPSG registry as PROJ ships it (/usr/share/proj/proj.db, Debian's proj-data):
// for each geographic CRS how well the shift to WGS 84 that we apply is known, and how long it is where we apply none.
// Run after core is built: node scripts/make-datum-table.mjs
import Database from 'better-sqlite3';
import { writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import proj4 from 'proj4';

const list = createRequire(import.meta.url)('proj4-list');
const db = new Database('/usr/share/proj/proj.db', { readonly: true });
const shifts = db
  .prepare(
    `SELECT source_crs_code AS code, accuracy, tx, ty, tz FROM helmert_transformation
     WHERE source_crs_auth_name = 'EPSG' AND target_crs_auth_name = 'EPSG' AND target_crs_code IN (4326, 4258, 4269, 4283)
       AND auth_name = 'EPSG' AND accuracy IS NOT NULL`,
  )
  .all();
const rows = Object.keys(list).flatMap((key) => {
  const string = list[key][1] ?? '';
  const code = Number(/^EPSG:(\d+)$/.exec(key)?.[1]);
  if (!code || !/\+proj=longlat/.test(string)) return [];
  const known = shifts.filter((s) => Number(s.code) === code);
  const { datum } = new proj4.Proj(string);
  const [HELMERT_3, HELMERT_7, WGS84] = [1, 2, 4];
  const isNull = datum.datum_type === WGS84; // told to be the same as WGS 84
  if (/\+datum=WGS84/.test(string)) return [[code, 0, 0]];
  if (isNull || datum.datum_type === HELMERT_3 || datum.datum_type === HELMERT_7) {
    const [tx, ty, tz] = isNull ? [0, 0, 0] : datum.datum_params;
    const same = known.find((s) => Math.hypot(s.tx - tx, s.ty - ty, s.tz - tz) < 1);
    const accuracy = same?.accuracy ?? (known.length > 0 ? Math.max(...known.map((s) => s.accuracy)) : null);
    return [[code, accuracy, 0]];
  }
  const longest = known.length > 0 ? Math.max(...known.map((s) => Math.hypot(s.tx, s.ty, s.tz))) : null;
  return [[code, 0, longest === null ? null : Math.ceil(longest)]];
});
rows.sort((a, b) => a[0] - b[0]);
writeFileSync(new URL('../engine/data/datum-shift.json', import.meta.url), `[\n${rows.map((r) => JSON.stringify(r)).join(',\n')}\n]\n`);
console.log(`${rows.length} geographic CRSs, ${rows.filter((r) => r[1] === null || r[2] === null).length} of which nothing is known`);
