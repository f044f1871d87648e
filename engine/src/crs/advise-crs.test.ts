import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import proj4 from 'proj4';
import { distortionAt, resolutionOf, roundLength, scaleOf, type Ellipsoid } from '@rootmap/core';
import { adviseCrs } from './advise-crs.js';

const CLARKE_1866: Ellipsoid = { a: 6_378_206.4, e2: 0.006_768_66 };
const at = (proj: string, longitude: number, latitude: number, ellipsoid?: Ellipsoid) => {
  const geographic = `+proj=longlat ${/\+(ellps|datum|R)=\S+/.exec(proj)![0]} +no_defs`;
  return distortionAt((x, y) => proj4<[number, number]>(geographic, `${proj} +x_0=0 +y_0=0`, [x, y]), longitude, latitude, ellipsoid)!;
};

describe('scale factors', () => {
  // Source: Snyder 1987, appendix A, numerical examples of chapters 8 and 15 on the Clarke 1866 ellipsoid; the factors from memory.
  test('printed: transverse Mercator 0.9997989, Lambert conformal conic 0.9970171', () => {
    expect(at('+proj=tmerc +ellps=clrk66 +lat_0=0 +lon_0=-75 +k=0.9996', -73.5, 40.5, CLARKE_1866).k).toBeCloseTo(0.9997989, 6);
    expect(at('+proj=lcc +ellps=clrk66 +lat_1=33 +lat_2=45 +lat_0=23 +lon_0=-96', -75, 35, CLARKE_1866).k).toBeCloseTo(0.9970171, 6);
  });
  // Source: Snyder 1987, equation 7-8: k = sqrt(1 - e2 sin2 phi) / cos phi for the Mercator projection.
  test.each([0, 20, 35, 60, 80])('Mercator at %s degrees', (latitude) => {
    const phi = (latitude * Math.PI) / 180;
    const { h, k } = at('+proj=merc +ellps=clrk66 +lon_0=-180', 10, latitude, CLARKE_1866);
    const expected = Math.sqrt(1 - CLARKE_1866.e2 * Math.sin(phi) ** 2) / Math.cos(phi);
    expect(Math.abs(k / expected - 1)).toBeLessThan(1e-7);
    expect(Math.abs(h / expected - 1)).toBeLessThan(1e-6);
  });
  // Source: `proj -S` of Debian's proj-bin: meridian and parallel scale, areal scale, angular distortion, axes of the ellipse.
  test.each([
    ['+proj=utm +zone=24 +datum=WGS84', -36.2, 44],
    ['+proj=lcc +lat_1=33 +lat_2=45 +lat_0=39 +lon_0=-96 +ellps=WGS84', -75, 25],
    ['+proj=aea +lat_1=29.5 +lat_2=45.5 +lat_0=23 +lon_0=-96 +ellps=WGS84', -75, 25],
    ['+proj=laea +lat_0=52 +lon_0=10 +ellps=WGS84', 30, 65],
    ['+proj=sinu +lon_0=0 +ellps=WGS84', 40, 50],
  ])('%s as PROJ has it', (proj, longitude, latitude) => {
    const printed = execFileSync('proj', ['-S', '-f', '%.9f', ...proj.split(' ')], { input: `${longitude} ${latitude}\n` }).toString();
    const [h, k, area, , most, least] = /<(.*)>/.exec(printed)![1]!.trim().split(/\s+/).map(Number);
    const ours = at(proj, longitude, latitude);
    // It prints as many digits as `%g` has.
    const ratios = [ours.h / h!, ours.k / k!, ours.area / area!, ours.most / most!, ours.least / least!];
    for (const ratio of ratios) expect(Math.abs(ratio - 1)).toBeLessThan(1e-5);
  });
});

// Source: OGC 05-077r4, 10.2: a standardised pixel is 0.28 mm.
test('1:n and the resolution: one undoes the other, and a pixel at 1:10,000 is 2.8 m on the ground', () => {
  expect(resolutionOf(10_000, 1, 1)).toBeCloseTo(2.8, 12);
  expect(scaleOf(resolutionOf(25_000, 1, 0.9996), 1, 0.9996)).toBeCloseTo(25_000, 6);
});

test('a bar has a round length', () => {
  expect([999, 1000, 1999, 2000, 4999, 5000, 0.7, 9.99].map(roundLength)).toEqual([500, 1000, 1000, 2000, 2000, 5000, 0.5, 5]);
});

describe('which CRS a map could be in', () => {
  const bay = { degrees: [-39.3, 43.9, -39.1, 44.05], name: 'tide gauges', isRaster: false } as const;
  test('the raster decides, and why is said', () => {
    const advice = adviseCrs([
      { ...bay, crs: 'EPSG:4326' },
      { ...bay, crs: 'EPSG:32624', isRaster: true, name: 'depth' },
    ]);
    expect(advice.proposed).toMatchObject({ crs: { code: 'EPSG:32624' }, why: expect.stringMatching(/depth, the raster.*costs quality/) });
    expect(advice.proposed!.lengthPerMille).toBeCloseTo(0.4, 1);
  });
  test('degrees propose the zone of a narrow extent', () => {
    const { proposed } = adviseCrs([{ ...bay, crs: 'EPSG:4326' }]);
    expect(proposed).toMatchObject({ crs: { code: 'EPSG:32624' }, method: 'Transverse Mercator' });
  });
  // Common practice, no source: wide countries take conic projections, a continent an azimuthal one.
  test('a wide extent: a conic with less distortion than any zone, and an equal area one', () => {
    const { proposed, others } = adviseCrs([{ crs: 'EPSG:4326', isRaster: false, name: 'states', degrees: [-124, 25, -67, 49] }]);
    const all = [proposed!, ...others];
    expect(all.map((p) => p.method)).toEqual(expect.arrayContaining(['Albers equal area', 'Lambert azimuthal equal area', 'degrees']));
    expect(proposed!.lengthPerMille).toBeLessThan(Math.min(...all.slice(0, -1).map((p) => p.lengthPerMille)) + 0.3);
    expect(all.find((p) => p.method === 'Albers equal area')!.areaPerMille).toBeLessThan(1);
    const europe = adviseCrs([{ crs: 'EPSG:4258', isRaster: false, name: 'countries', degrees: [-10, 36, 32, 70] }]);
    const found = [europe.proposed!, ...europe.others];
    expect(found.map((p) => p.crs.code)).toEqual(expect.arrayContaining(['EPSG:3035', 'EPSG:3034'])); // laea and lcc of Europe
  });
  test('a raster that says nothing of where it lies does not tell how a map of the world is drawn', () => {
    const world = { crs: 'EPSG:4326', isRaster: false, name: 'countries', degrees: [-180, -90, 180, 84] as const };
    const scan = { crs: 'EPSG:32633', isRaster: true, name: 'scan', degrees: null };
    for (const layers of [
      [world, scan],
      [scan, world],
      [{ ...scan, degrees: [14, 50, 15, 51] as const }, world],
    ]) {
      const { proposed } = adviseCrs(layers);
      expect([proposed!.crs.code, proposed!.lengthPerMille]).not.toEqual(['EPSG:32633', expect.anything()]);
    }
  });
  test('nothing is known: nothing is proposed', () =>
    expect(adviseCrs([{ crs: null, isRaster: false, name: 'x', degrees: null }])).toEqual({ proposed: null, others: [], degrees: null }));
});
