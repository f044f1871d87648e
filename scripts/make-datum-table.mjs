// Makes engine/data/datum-shift.json from the EPSG registry as PROJ ships it (/usr/share/proj/proj.db, Debian's proj-data), and from PROJ itself:
// for each geographic CRS how well the shift to WGS 84 that we apply is known, and how long it is where we apply none. Never below what the
// registry says of that shift, nor below how far it is from where PROJ puts points over the area of use.
// Run after make-crs-table.mjs, where python3-gdal is installed: node scripts/make-datum-table.mjs
import Database from 'better-sqlite3';
import { readFileSync, writeFileSync } from 'node:fs';
import proj4 from 'proj4';
import { metresOff, shiftsByProj } from './crs-shifts.mjs';

const data = (name) => new URL(`../engine/data/${name}`, import.meta.url);
const strings = JSON.parse(readFileSync(data('crs-definition.json'), 'utf8')).filter(([, s]) => /\+proj=longlat/.test(s));
const boxes = new Map(JSON.parse(readFileSync(data('crs-area.json'), 'utf8')).map(([code, , , , ...box]) => [code, box]));
const byProj = shiftsByProj(strings.map(([code]) => [code, ...boxes.get(code)]));
const db = new Database('/usr/share/proj/proj.db', { readonly: true });
const shifts = db
  .prepare(
    `SELECT source_crs_code AS code, accuracy, tx, ty, tz FROM helmert_transformation
     WHERE source_crs_auth_name = 'EPSG' AND target_crs_auth_name = 'EPSG' AND target_crs_code IN (4326, 4258, 4269, 4283)
       AND auth_name = 'EPSG' AND accuracy IS NOT NULL`,
  )
  .all();

/** By the registry: [metres to which the shift that is applied is known, metres of the shift that is not applied]; null: it does not say. */
function byRegistry(code, string) {
  const known = shifts.filter((s) => Number(s.code) === code);
  const { datum } = new proj4.Proj(string);
  const [HELMERT_3, HELMERT_7, WGS84] = [1, 2, 4];
  const isNull = datum.datum_type === WGS84; // told to be the same as WGS 84
  if (/\+datum=WGS84/.test(string)) return [0, 0];
  const isShifted = datum.datum_type === HELMERT_3 || datum.datum_type === HELMERT_7;
  const [tx, ty, tz] = isShifted ? datum.datum_params : [0, 0, 0];
  const same = known.find((s) => Math.hypot(s.tx - tx, s.ty - ty, s.tz - tz) < 1);
  if (isNull || isShifted || same) return [same?.accuracy ?? (known.length > 0 ? Math.max(...known.map((s) => s.accuracy)) : null), 0];
  const longest = known.length > 0 ? Math.max(...known.map((s) => Math.hypot(s.tx, s.ty, s.tz))) : null;
  return [0, longest === null ? null : Math.ceil(longest)];
}

const EXACT = 0.01;
const rows = strings.map(([code, string]) => {
  const [accuracy, leftOut] = byRegistry(code, string);
  const off = metresOff(string, byProj.get(code)?.points ?? []);
  if (off === null || off <= EXACT || leftOut === null) return [code, accuracy, leftOut];
  const atLeast = Math.ceil(off * 10) / 10;
  return leftOut > 0
    ? [code, accuracy, Math.max(leftOut, Math.ceil(off))]
    : [code, accuracy === null ? null : Math.max(accuracy, atLeast), 0];
});
rows.sort((a, b) => a[0] - b[0]);
writeFileSync(data('datum-shift.json'), `[\n${rows.map((r) => JSON.stringify(r)).join(',\n')}\n]\n`);
console.log(`${rows.length} geographic CRSs, ${rows.filter((r) => r[1] === null || r[2] === null).length} of which nothing is known`);
