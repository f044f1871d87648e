import { expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { crsFacts } from '@rootmap/core';
import { tellAgreement } from '../../../core/test/agreement.js';
import { definitionOf, offBy } from './definitions.js';
import { doubtOf } from './doubt.js';
import { transformer } from './transformer.js';

// Outside reference: PROJ (the osr module of Debian's python3-gdal) puts 25 points of each projected CRS over its area of use
// (scripts/crs-points.py). Those that are computed here must lie within a millimetre of them, or within what is told.

type Points = readonly [number, number, number, readonly (readonly [number, number, number, number])[]];
const EXACT = 0.001;

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
    'CRSs: points of every projected one that is computed, within a millimetre of PROJ or of what is told',
    proven + toldOff,
    0,
    proven + toldOff + wrong.length,
  );
  expect(wrong).toEqual([]);
  expect(proven).toBeGreaterThan(4300);
}, 60_000);

test('what is computed wrongly is not computed: south-oriented axes, Krovak, oblique ones', () => {
  for (const code of ['EPSG:2048', 'EPSG:5513', 'EPSG:3167', 'EPSG:2065'])
    expect([code, transformer('EPSG:4326', code), definitionOf(code)!.wkt !== '']).toEqual([code, null, true]);
});

// Outside reference: PROJ puts 25 points of each geographic CRS on WGS 84 (scripts/crs-shifts.py), without grids; what it can only take over
// as it is is left out.
test('every shift between datums is right to within what is told, and equal datums have equal shifts', () => {
  const areas = (JSON.parse(readFileSync('engine/data/crs-area.json', 'utf8')) as (readonly (number | string)[])[]).flatMap(
    ([code, , unit, , west, south, east, north]) =>
      unit === 'degree' && definitionOf(`EPSG:${code}`)?.proj4 ? [[code, west, south, east, north]] : [],
  );
  const answer = execFileSync('/usr/bin/python3', ['scripts/crs-shifts.py'], {
    input: JSON.stringify(areas),
    maxBuffer: 1 << 28,
    stdio: ['pipe', 'pipe', 'ignore'],
  });
  type Rows = readonly [number, unknown, readonly (readonly [number, number, number, number])[]][];
  const wrong: string[] = [];
  let agreed = 0;
  for (const [code, , points] of JSON.parse(answer.toString()) as Rows) {
    const own = `EPSG:${code}`;
    const to = transformer(own, 'EPSG:4326')!;
    const told = doubtOf(own, 'EPSG:4326').metres;
    if (told === null || points.length === 0) continue; // it is said that nobody knows
    let worst = 0;
    for (const [x, y, east, north] of points) {
      const at = to(x, y)!;
      const turn = ((((at[0] - east + 180) % 360) + 360) % 360) - 180;
      worst = Math.max(worst, Math.hypot(turn * Math.cos((y * Math.PI) / 180), at[1] - north) * 111_320);
    }
    if (worst > told + 0.01) wrong.push(`${own}: ${worst} m, told ${told}`);
    else agreed++;
  }
  tellAgreement('CRSs: shifts of geographic ones to WGS 84, within what is told', agreed, 0, agreed + wrong.length);
  expect(wrong).toEqual([]);
  expect(agreed).toBeGreaterThan(300);
  // Between a projected CRS and its own geographic one nothing is shifted (seen with Stereo 70, whose shift stood the wrong way round).
  const there = transformer('EPSG:4179', 'EPSG:3844')!(25, 46)!;
  expect([there[0], there[1]].map((v) => Math.abs(v - 500_000) < 0.001)).toEqual([true, true]);
}, 60_000);
