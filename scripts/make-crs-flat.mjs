// Makes engine/data/crs-flat.json from the EPSG registry as PROJ ships it (/usr/share/proj/proj.db, Debian's proj-data): of CRSs with heights,
// compound ones and geographic ones of three axes, the one that positions are in: [code, code of the flat one].
// Run: node scripts/make-crs-flat.mjs
import Database from 'better-sqlite3';
import { writeFileSync } from 'node:fs';

const db = new Database('/usr/share/proj/proj.db', { readonly: true });
const compound = db
  .prepare(
    `SELECT CAST(code AS INTEGER) AS code, CAST(horiz_crs_code AS INTEGER) AS flat FROM compound_crs
     WHERE auth_name = 'EPSG' AND horiz_crs_auth_name = 'EPSG'`,
  )
  .all();
const geographic = db
  .prepare(
    `SELECT CAST(a.code AS INTEGER) AS code, min(CAST(b.code AS INTEGER)) AS flat FROM geodetic_crs a JOIN geodetic_crs b
       ON a.datum_code = b.datum_code AND a.datum_auth_name = b.datum_auth_name AND a.name = b.name
     WHERE a.auth_name = 'EPSG' AND b.auth_name = 'EPSG' AND a.type = 'geographic 3D' AND b.type = 'geographic 2D' AND b.deprecated = 0
     GROUP BY a.code`,
  )
  .all();
const flatOf = new Map([...compound, ...geographic].map(({ code, flat }) => [code, flat]));
const rows = [...flatOf.keys()].sort((a, b) => a - b).map((code) => [code, flatOf.get(flatOf.get(code)) ?? flatOf.get(code)]);
writeFileSync(new URL('../engine/data/crs-flat.json', import.meta.url), `[\n${rows.map((r) => JSON.stringify(r)).join(',\n')}\n]\n`);
console.log(`${compound.length} compound, ${geographic.length} geographic ones of three axes`);
