import { mkdirSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { writeMapFile, type NewLayer } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { fullFingerprint } from '../fingerprint/full-fingerprint.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { Looker } from '../survey/look.js';
import { TestFolder } from '../../test/test-project.js';
import { mapPicture } from './map-picture.js';

// What a card shows of a map. The picture is read as text: where its marks lie is computed here from the positions that were written.
const folder = new TestFolder();
const root = folder.at('p');
const SPOTS = [[2, 50], [4, 51], [3, 50.5], [2.2, 50.9]] as const; // prettier-ignore
let scope: RootedScope;

const points = (spots: readonly (readonly [number, number])[]): string =>
  JSON.stringify({
    type: 'FeatureCollection',
    features: spots.map((coordinates, n) => ({ type: 'Feature', properties: { n }, geometry: { type: 'Point', coordinates } })),
  });
const map = (name: string, crs: string | null, layers: readonly NewLayer[]): void =>
  writeFileSync(join(root, 'maps', `${name}.owc.json`), writeMapFile({ id: name, title: name, updated: '2026-01-01T00:00:00Z', crs, storedForm: 'relative', layers })); // prettier-ignore
const layer = (id: string, file: string, more: Partial<NewLayer> = {}): NewLayer => ({
  id,
  title: id,
  format: 'geojson',
  href: `../data/${file}`,
  ...more,
});

beforeAll(() => {
  for (const f of ['maps', 'data']) mkdirSync(join(root, f), { recursive: true });
  writeFileSync(join(root, 'p.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'p', name: 'p', title: 'P' }));
  writeFileSync(join(root, 'data', 'there.geojson'), points(SPOTS));
  const { dataset, folder: at } = new Looker(folder.places).look(locationOf(folder.at('p', 'data', 'there.geojson'), folder.places), null);
  const fingerprint = fullFingerprint(at!, dataset!);
  map('there', 'EPSG:4326', [layer('a', 'there.geojson')]);
  map('gone', 'EPSG:4326', [layer('a', 'gone.geojson', { fingerprint })]);
  map('elsewhere', 'EPSG:3857', [layer('a', 'gone.geojson', { fingerprint })]);
  map('nowhere', null, [layer('a', 'there.geojson')]);
  map('unknown', 'EPSG:4326', [layer('a', 'gone.geojson')]);
  scope = folder.scope('p');
});
afterAll(() => folder.remove());
const picture = (name: string): Promise<string | null> => mapPicture(scope, `maps/${name}.owc.json`, folder.at('cache'));
const numbersIn = (svg: string, pattern: RegExp): number[][] => [...svg.matchAll(pattern)].map((m) => m.slice(1).map(Number));

describe('the small picture of a map', () => {
  test('what is there is drawn, in its frame, as a picture that one sees through', async () => {
    const svg = (await picture('there'))!;
    expect(svg).toMatch(/^<svg [^>]*viewBox="0 0 160 60"/);
    expect(svg).not.toMatch(/<rect width="100%"/);
    const marks = numbersIn(svg, /M([-\d.]+) ([-\d.]+)/g);
    expect(marks.length).toBeGreaterThanOrEqual(SPOTS.length - 2); // a map of another shape is cut a little
    expect(svg).not.toContain('#a33a72');
  });
  test.each(['gone', 'elsewhere'])('of data that is gone the cells that the map remembers: %s', async (name) => {
    const svg = (await picture(name))!;
    const [path] = /<path d="[^"]+" fill="#a33a72"/.exec(svg)!;
    const cells = numbersIn(path, /M([-\d.]+) ([-\d.]+)L/g);
    // A grid of 16 × 16 over the extent, each spot in a cell of its own: its south-west corner, in degrees.
    const corner = (v: number, from: number, size: number): number =>
      from + (Math.min(15, Math.floor(((v - from) / size) * 16)) * size) / 16;
    const wanted = SPOTS.map(([x, y]) => [corner(x, 2, 2), corner(y, 50, 1)] as const);
    expect(cells).toHaveLength(wanted.length);
    // From west to east as from left to right, at one scale; from south to north as from below.
    const byEast = [...wanted].sort((one, other) => one[0] - other[0]);
    const byX = [...cells].sort((one, other) => one[0]! - other[0]!);
    const scale = (byX[3]![0]! - byX[0]![0]!) / (byEast[3]![0] - byEast[0]![0]);
    expect(scale).toBeGreaterThan(0);
    byX.forEach(([x], i) => expect(x).toBeCloseTo(byX[0]![0]! + scale * (byEast[i]![0] - byEast[0]![0]), 1));
    const heights = byX.map(([, y]) => y!);
    expect(heights.map((y) => [...heights].sort((c, d) => d - c).indexOf(y))).toEqual(
      byEast.map(([, y]) => [...byEast.map((e) => e[1])].sort((c, d) => c - d).indexOf(y)),
    );
    expect(svg).not.toMatch(/NaN|Infinity/);
  });
  test('nothing, where a map has no CRS or nothing says where it is', async () => {
    expect(await picture('nowhere')).toBeNull();
    expect(await picture('unknown')).toBeNull();
  });
});
