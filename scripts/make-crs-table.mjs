// Makes engine/data/crs.json from the npm package epsg-index (ISC): code, name and signature of each CRS, and
// engine/data/crs-area.json: what a person chooses one by, of those that maps are drawn in; and engine/data/crs-definition.json:
// how their coordinates are computed (proj4-list, ISC, whose datum shifts are sound, and PROJ for those that it lacks) and written (WKT 1).
// Run after core is built, where python3-gdal is installed: node scripts/make-crs-table.mjs
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { crsFacts } from '../core/dist/crs/crs-facts.js';
import { crsSignature } from '../core/dist/crs/signature.js';
import { parseWkt } from '../core/dist/crs/wkt.js';
import { metresOff, shiftsByProj } from './crs-shifts.mjs';

/** A row a line, in the order of their codes: single ones are read without the others (engine/src/disk/code-rows.ts). */
const table = (rows) => `[\n${rows.map((r) => JSON.stringify(r)).join(',\n')}\n]\n`;
// Codes above are not the EPSG's own.
const LAST_EPSG_CODE = 32767;
const require = createRequire(import.meta.url);
const all = JSON.parse(readFileSync(require.resolve('epsg-index/all.json'), 'utf8'));
const area = Object.values(all)
  .filter((c) => /^\d+$/.test(c.code) && Number(c.code) <= LAST_EPSG_CODE && ['CRS-PROJCRS', 'CRS-GEOGCRS'].includes(c.kind) && c.bbox)
  .filter((c) => !/\((?:3D|FTP|N-zE)\)/.test(c.name))
  .map(({ code, name, kind, unit, area, bbox: [north, west, south, east] }) => [
    Number(code),
    name,
    kind === 'CRS-PROJCRS' ? (unit ?? 'metre') : 'degree',
    area,
    west,
    south,
    east,
    north,
  ])
  .sort((a, b) => a[0] - b[0]);
writeFileSync(new URL('../engine/data/crs-area.json', import.meta.url), table(area));
const proj4 = require('proj4-list');
/** Grids do not ship with the app; the shift that stands beside them is what is left. */
const MANDATORY_GRID = / \+nadgrids=(?!@)\S+/g;
const listed = area.flatMap(([code]) => {
  const string = proj4[`EPSG:${code}`]?.[1]?.trim().replace(MANDATORY_GRID, '');
  return string && all[code].wkt ? [[code, string]] : [];
});
// What the package lacks PROJ tells, with shifts between datums as well as one Helmert transformation can.
const missing = area.map(([code]) => code).filter((code) => !listed.some(([c]) => c === code));
const script = new URL('crs-missing.py', import.meta.url).pathname;
const asked = {
  input: JSON.stringify({ missing, known: Object.fromEntries(listed) }),
  maxBuffer: 1 << 28,
  stdio: ['pipe', 'pipe', 'ignore'],
};
const { added, odd } = JSON.parse(execFileSync('/usr/bin/python3', [script], asked).toString());
// Some texts the package lacks, too.
for (const [code, , wkt] of added) all[code].wkt ??= wkt;

const rows = Object.values(all)
  .filter((c) => c.wkt && /^\d+$/.test(c.code) && Number(c.code) <= LAST_EPSG_CODE)
  .map((c) => {
    const node = parseWkt(c.wkt);
    return [Number(c.code), c.name, node ? crsSignature(node) : null];
  })
  .sort((a, b) => a[0] - b[0]);
// Several codes with one definition: the one without an axis order in its name is meant; otherwise none is claimed.
const bySignature = Map.groupBy
  ? Map.groupBy(rows, (r) => r[2])
  : rows.reduce((m, r) => m.set(r[2], [...(m.get(r[2]) ?? []), r]), new Map());
for (const [signature, same] of bySignature) {
  if (!signature || same.length === 1) continue;
  let plain = same.filter((r) => !/\((?:N-E|N,E|E,N|lon-lat|3D|FTP|N-zE)\)/.test(r[1]));
  if (plain.length > 1) plain = plain.filter((r) => /UTM zone \d+[NS]$/.test(r[1]));
  for (const r of same) if (plain.length !== 1 || r !== plain[0]) r[2] = null;
}
writeFileSync(new URL('../engine/data/crs.json', import.meta.url), table(rows));
const left = [...bySignature].filter(([s, same]) => s && same.every((r) => r[2] === null));
console.log(`${rows.length} rows; ${left.length} definitions left without a code:`);
console.log(
  left
    .slice(0, 60)
    .map(([, same]) => same.map((r) => `${r[0]} ${r[1]}`).join(' = '))
    .join('\n'),
);

const strings = new Map([...listed, ...added].filter(([code]) => all[code].wkt && !odd.includes(code)));
// Of two shifts of a geographic CRS, the package's and PROJ's choice, the one that is nearer to what PROJ does over its area.
const boxes = area.filter(([code]) => strings.has(code)).map(([code, , , , ...box]) => [code, ...box]);
let better = 0;
for (const [code, { shift, points }] of shiftsByProj(boxes)) {
  const own = strings.get(code);
  if (!shift || /@null|\+datum=/.test(own)) continue;
  const other = `${own.replace(/ \+(?:towgs84|nadgrids)=\S+/g, '').replace(' +no_defs', '')} +towgs84=${shift.join(',')} +no_defs`;
  if (points.length === 0 || metresOff(other, points) >= metresOff(own, points) - 0.5) continue;
  better++;
  strings.set(code, other);
}
// CRSs of one geographic CRS have its shift, so that nothing is shifted between them.
const DATUM = / \+(?:towgs84|nadgrids|datum|ellps|a|b|rf)=\S+/g;
const datumOf = (string) => (string.match(DATUM) ?? []).sort().join('');
let shifted = 0;
for (const [code, string] of strings) {
  const base = strings.get(Number(crsFacts(all[code].wkt)?.base?.replace('EPSG:', '')));
  const isOwnSphere = /@null/.test(string); // computed on a sphere on purpose
  if (base === undefined || isOwnSphere || datumOf(base) === datumOf(string)) continue;
  shifted++;
  strings.set(code, string.replace(DATUM, '').replace(/^(\+proj=\S+)/, `$1${datumOf(base)}`));
}
const definitions = [...strings].sort((a, b) => a[0] - b[0]).map(([code, string]) => [code, string, all[code].wkt]);
writeFileSync(new URL('../engine/data/crs-definition.json', import.meta.url), table(definitions));
console.log(
  `${area.length} with an area of use, ${definitions.length} with a definition, ${added.length} of them by PROJ, ${better} with PROJ's shift, ${shifted} with the shift of their geographic CRS`,
);
