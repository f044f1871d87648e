import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { crsDiffers, identifyCrs } from '@rootmap/core';
import { crsTable } from './crs-table.js';

const gcs = (name: string, datum: string, a: number, f: number): string =>
  `GEOGCS["${name}",DATUM["${datum}",SPHEROID["s",${a},${f}]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]]`;
const tm = (base: string, lon: number, k: number, x: number, y: number, lat = 0): string =>
  `PROJCS["n",${base},PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",${x}],PARAMETER["False_Northing",${y}],PARAMETER["Central_Meridian",${lon}],PARAMETER["Scale_Factor",${k}],PARAMETER["Latitude_Of_Origin",${lat}],UNIT["Meter",1.0]]`;
const ETRS = gcs('GCS_ETRS_1989', 'D_ETRS_1989', 6378137, 298.257222101);
const WGS = gcs('GCS_WGS_1984', 'D_WGS_1984', 6378137, 298.257223563);

/** Definitions as `.prj` files state them; codes of the EPSG dataset, agreeing with gdalsrsinfo 3.6.2. */
describe('a .prj without a code', () => {
  test.each<[string, string | null]>([
    [WGS, 'EPSG:4326'],
    [ETRS, 'EPSG:4258'],
    [tm(ETRS, 9, 0.9996, 500000, 0), 'EPSG:25832'],
    [tm(WGS, -39, 0.9996, 500000, 0), 'EPSG:32624'],
    [tm(gcs('g', 'D_OSGB_1936', 6377563.396, 299.3249646), -2, 0.9996012717, 400000, -100000, 49), 'EPSG:27700'],
    [
      `PROJCS["n",${ETRS},PROJECTION["Lambert_Azimuthal_Equal_Area"],PARAMETER["False_Easting",4321000],PARAMETER["False_Northing",3210000],PARAMETER["Central_Meridian",10],PARAMETER["Latitude_Of_Origin",52],UNIT["Meter",1]]`,
      'EPSG:3035',
    ],
    [
      `PROJCS["n",${WGS},PROJECTION["Mercator_Auxiliary_Sphere"],PARAMETER["False_Easting",0],PARAMETER["False_Northing",0],PARAMETER["Central_Meridian",0],PARAMETER["Standard_Parallel_1",0],PARAMETER["Auxiliary_Sphere_Type",0],UNIT["Meter",1]]`,
      'EPSG:3857',
    ],
    [tm(WGS, -39.5, 0.9996, 500000, 0), null],
    [gcs('g', 'D_unknown', 6378137, 298.257223563), null],
    ['nonsense', null],
  ])('%.60s', (wkt, code) => expect(identifyCrs(wkt, crsTable)?.code ?? null).toBe(code));
  test('a code that the text names is believed', () =>
    expect(identifyCrs('PROJCS["x",AUTHORITY["EPSG","31370"]]', crsTable)).toMatchObject({
      code: 'EPSG:31370',
      name: 'BD72 / Belgian Lambert 72',
    }));
  test('that of the example project', () =>
    expect(identifyCrs(readFileSync('testdata/open/example_project/working/clips/quay_002.prj', 'utf8'), crsTable)?.code).toBe(
      'EPSG:25832',
    ));
});

test('two texts of one CRS do not differ, two of two do, unknown is no difference', () => {
  expect(crsDiffers({ wkt: WGS }, { wkt: WGS.replace('D_WGS_1984', 'WGS_1984') })).toBe(false);
  expect(crsDiffers({ wkt: WGS }, { wkt: ETRS })).toBe(true);
  expect(crsDiffers(null, { wkt: ETRS })).toBe(false);
  expect(crsDiffers('EPSG:4326', 'EPSG:4258')).toBe(true);
});
