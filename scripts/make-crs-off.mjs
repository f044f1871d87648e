// Makes engine/data/crs-off.json: projected CRSs that our computing is more than a millimetre off in, somewhere in their areas of use, from
// where PROJ puts the same points: [code, metres, rounded up]; null metres: more than MOST, or nowhere at all.
// Run where python3-gdal is installed, after a build: node scripts/make-crs-off.mjs
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import proj4 from 'proj4';
import { withoutShift } from '../engine/dist/crs/without-shift.js';

const EXACT = 0.001;
/** Beyond that a CRS is not computed at all. In metres. */
const MOST = 20;
const data = (name) => new URL(`../engine/data/${name}`, import.meta.url);
const definitions = new Map(JSON.parse(readFileSync(data('crs-definition.json'), 'utf8')).map(([code, string]) => [code, string]));
const areas = JSON.parse(readFileSync(data('crs-area.json'), 'utf8')).flatMap(([code, , , , west, south, east, north]) =>
  definitions.has(code) ? [[code, west, south, east, north]] : [],
);
const script = new URL('crs-points.py', import.meta.url).pathname;
const input = { input: JSON.stringify(areas), maxBuffer: 1 << 28, stdio: ['pipe', 'pipe', 'ignore'] };
const off = [];
let proven = 0;
for (const [code, base, unit, points] of JSON.parse(execFileSync('/usr/bin/python3', [script], input).toString())) {
  const from = definitions.get(base);
  if (!from) continue;
  let worst = 0;
  for (const [x, y, east, north] of points) {
    let metres = Infinity;
    try {
      const [u, v] = proj4(...withoutShift(from, definitions.get(code)), [x, y]);
      metres = Math.hypot(u - east, v - north) * unit;
    } catch {
      // it has no such point
    }
    worst = Math.max(worst, Number.isFinite(metres) ? metres : Infinity);
  }
  if (worst <= EXACT) proven++;
  else off.push([code, worst > MOST ? null : Math.ceil(worst * 1000) / 1000]);
}
writeFileSync(data('crs-off.json'), `[\n${off.map((r) => JSON.stringify(r)).join(',\n')}\n]\n`);
console.log(`${proven} within a millimetre, ${off.length} not, ${off.filter(([, m]) => m === null).length} of them not computed`);
