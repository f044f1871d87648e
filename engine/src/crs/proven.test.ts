import { expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { crsFacts } from '@rootmap/core';
import { tellAgreement } from '../../../core/test/agreement.js';
import { definitionOf, offBy } from './definitions.js';
import { transformer } from './transformer.js';

// Outside reference: PROJ (the osr module of Debian's python3-gdal) puts 25 points of each projected CRS over its area of use
// (scripts/crs-points.py). Those that are computed here must lie within a centimetre of them, or within what is told.

type Points = readonly [number, number, number, readonly (readonly [number, number, number, number])[]];
const EXACT = 0.01;

test('every projected CRS that is computed here is computed as PROJ does, or told how far it is off', () => {
  const areas = (JSON.parse(readFileSync('engine/data/crs-area.json', 'utf8')) as (readonly (number | string)[])[]).flatMap(
    ([code, , , , west, south, east, north]) => (definitionOf(`EPSG:${code}`)?.proj4 ? [[code, west, south, east, north]] : []),
  );
  const answer = execFileSync('/usr/bin/python3', ['scripts/crs-points.py'], {
    input: JSON.stringify(areas),
    maxBuffer: 1 << 28,
    stdio: ['pipe', 'pipe', 'ignore'],
  });
  const wrong: string[] = [];
  let proven = 0;
  let toldOff = 0;
  for (const [code, base, unit, points] of JSON.parse(answer.toString()) as Points[]) {
    const own = `EPSG:${code}`;
    const told = offBy(own)!;
    const there = definitionOf(`EPSG:${base}`) ? transformer(`EPSG:${base}`, own) : null;
    if (!there) continue;
    let worst = 0;
    for (const [x, y, east, north] of points) {
      const at = there(x, y);
      worst = Math.max(worst, at ? Math.hypot(at[0] - east, at[1] - north) * unit : Infinity);
    }
    if (worst > Math.max(EXACT, told)) wrong.push(`${own}: ${worst} m, told ${told}`);
    else if (told === 0) proven++;
    else toldOff++;
    expect(crsFacts(definitionOf(own)!.wkt)).not.toBeNull();
  }
  tellAgreement(
    'CRSs: points of every projected one that is computed, within a centimetre of PROJ or of what is told',
    proven + toldOff,
    0,
    proven + toldOff + wrong.length,
  );
  expect(wrong).toEqual([]);
  expect(proven).toBeGreaterThan(3700);
}, 60_000);

test('what is computed wrongly is not computed: south-oriented axes, Krovak, oblique ones without a grid', () => {
  for (const code of ['EPSG:2048', 'EPSG:5513', 'EPSG:3844', 'EPSG:3167', 'EPSG:27500', 'EPSG:27291'])
    expect([code, transformer('EPSG:4326', code), definitionOf(code)!.wkt !== '']).toEqual([code, null, true]);
});
