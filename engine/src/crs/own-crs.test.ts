import { execFileSync } from 'node:child_process';
import { describe, expect, test } from '@jest/globals';
import { crsFacts, identifyCrs, ownCrsOf } from '@rootmap/core';
import { tellAgreement } from '../../../core/test/agreement.js';
import { crsTable } from '../disk/crs-table.js';
import { doubtOf } from './doubt.js';
import { crsKey, definitionOf, ownBaseOf } from './definitions.js';
import { transformer } from './transformer.js';

interface Case {
  readonly code: string;
  readonly name: string;
  readonly esri: string;
  readonly wkt2: string;
  readonly json: string;
  readonly points: readonly (readonly [number, number, number, number])[];
}

/** Of the 1,244 CRSs one of so many is taken; all of them in `npm run bench -- agreement`. */
const EVERY = Number(process.env.ROOTMAP_OWN_CRS_EVERY ?? 5);

// Outside reference: PROJ's points for the CRSs that its database has under an authority other than the EPSG, by Debian's
// python3-gdal (engine/test/matrix/own_crs.py).
const cases = execFileSync('/usr/bin/python3', ['engine/test/matrix/own_crs.py', String(EVERY)], { maxBuffer: 1 << 28 })
  .toString()
  .trim()
  .split('\n')
  .map((line) => JSON.parse(line) as Case);

const MILLIMETRE = 0.001;
const CUSTOM =
  'PROJCS["Harbour grid",GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984",SPHEROID["WGS_1984",6378137.0,298.257223563]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",50000.0],PARAMETER["False_Northing",20000.0],PARAMETER["Central_Meridian",-39.25],PARAMETER["Scale_Factor",1.000012],PARAMETER["Latitude_Of_Origin",43.5],UNIT["Meter",1.0]]';

/** Null: it is not computed; else the farthest point from that of PROJ, and what people are told of it, in metres. */
function farthest(text: string, { points, esri }: Case): { off: number; told: number } | null {
  const key = crsKey(identifyCrs(text, crsTable));
  const base = key === null ? null : (ownBaseOf(key) ?? crsFacts(definitionOf(key)?.wkt ?? '')?.base ?? null);
  const to = key === null || base === null ? null : transformer(base, key);
  if (!to) return null;
  const metres = Number(/UNIT\["[^"]*",([\d.e-]+)\]\]$/.exec(esri)![1]);
  const far = points.map(([lon, lat, x, y]) => {
    const at = to(lon, lat);
    return at ? Math.hypot(at[0] - x, at[1] - y) * metres : Infinity;
  });
  return { off: Math.max(...far), told: doubtOf(base!, key!).metres ?? 0 };
}

/** How many of them are computed, of all that PROJ has under another authority; the least of the three texts. */
const LEAST_COMPUTED = Math.floor(850 / EVERY);
/** Those of them that the EPSG has no code for. */
const LEAST_OWN = Math.floor(600 / EVERY);

const TEXTS = { esri: 'WKT 1', wkt2: 'WKT 2', json: 'PROJJSON' };

describe.each(['esri', 'wkt2', 'json'] as const)('CRSs of another authority than the EPSG, as %s', (dialect) => {
  test('what is computed is where PROJ puts it, as exactly as is told', () => {
    const seen = cases.flatMap((c) => {
      const far = farthest(c[dialect], c);
      return far === null ? [] : [{ code: c.code, name: c.name, off: far.off, isRight: far.off <= Math.max(MILLIMETRE, far.told) }];
    });
    expect(seen.filter((s) => !s.isRight)).toEqual([]);
    const area = `CRSs of another authority than the EPSG, as ${TEXTS[dialect]}: points by PROJ`;
    tellAgreement(area, seen.length, cases.length - seen.length, cases.length);
    expect(seen.length).toBeGreaterThan(LEAST_COMPUTED);
  });
});

test('the texts of one CRS mean the same', () => {
  const projections = cases.map((c) => ['esri', 'wkt2', 'json'].map((d) => ownCrsOf(c[d as 'esri'], crsTable)));
  const all = projections.filter((p) => p.every((own) => own !== null));
  expect(all.length).toBeGreaterThan(LEAST_OWN);
  for (const [esri, wkt2, json] of all) expect([wkt2!.base, json!.base]).toEqual([esri!.base, esri!.base]);
});

test.each(['wkt2', 'json'] as const)('a parameter in a unit of its own is read in that, as %s', (dialect) => {
  const grid = (easting: string, unit: string): string =>
    `PROJCRS["Town grid",BASEGEOGCRS["WGS 84",DATUM["World Geodetic System 1984",ELLIPSOID["WGS 84",6378137,298.257223563]]],CONVERSION["Town",METHOD["Transverse Mercator"],PARAMETER["Latitude of natural origin",43.5,ANGLEUNIT["degree",0.0174532925199433]],PARAMETER["Longitude of natural origin",-39.25,ANGLEUNIT["degree",0.0174532925199433]],PARAMETER["Scale factor at natural origin",1.000012,SCALEUNIT["unity",1]],PARAMETER["False easting",${easting},${unit}],PARAMETER["False northing",0,${unit}]],CS[Cartesian,2],AXIS["x",east],AXIS["y",north],LENGTHUNIT["foot",0.3048]]`;
  const inJson = (value: number, unit: unknown): string =>
    JSON.stringify({
      type: 'ProjectedCRS',
      name: 'Town grid',
      base_crs: {
        name: 'WGS 84',
        datum: {
          name: 'World Geodetic System 1984',
          ellipsoid: { name: 'WGS 84', semi_major_axis: 6378137, inverse_flattening: 298.257223563 },
        },
      },
      conversion: {
        name: 'Town',
        method: { name: 'Transverse Mercator' },
        parameters: [
          { name: 'Latitude of natural origin', value: 43.5, unit: 'degree' },
          { name: 'Longitude of natural origin', value: -39.25, unit: 'degree' },
          { name: 'Scale factor at natural origin', value: 1.000012, unit: 'unity' },
          { name: 'False easting', value, unit },
        ],
      },
      coordinate_system: { axis: [{ unit: FOOT }, { unit: FOOT }] },
    });
  const FOOT = { type: 'LinearUnit', name: 'foot', conversion_factor: 0.3048 };
  const [inMetres, inFeet] =
    dialect === 'wkt2'
      ? [grid('30480', 'LENGTHUNIT["metre",1]'), grid('100000', 'LENGTHUNIT["foot",0.3048]')]
      : [inJson(30480, 'metre'), inJson(100000, FOOT)];
  const at = (text: string) => transformer('EPSG:4326', crsKey(identifyCrs(text, crsTable))!)!(-39.25, 43.5)!;
  expect(at(inFeet)[0]).toBeCloseTo(100_000, 6);
  expect(at(inMetres)[0]).toBeCloseTo(100_000, 6);
});

test.each([
  ['a datum that is not registered', CUSTOM.replaceAll('WGS_1984', 'Somewhere_2031')],
  ['an ellipsoid of its own under a known name', CUSTOM.replace('298.257223563', '300.1')],
  ['a parameter that the method does not have', CUSTOM.replace(',UNIT["Meter"', ',PARAMETER["Azimuth",12.5],UNIT["Meter"')],
  ['a method that is not proven', CUSTOM.replace('Transverse_Mercator', 'Goode_Homolosine')],
  ['axes to the south', CUSTOM.replace(/]$/, ',AXIS["Southing",SOUTH]]')],
])('%s is refused, not guessed', (_, text) => {
  expect(ownCrsOf(CUSTOM, crsTable)?.base).toBe('EPSG:4326');
  expect(ownCrsOf(text, crsTable)).toBeNull();
  expect(crsKey(identifyCrs(text, crsTable))).toBeNull();
});
