import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { join } from '../disk/native-path.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { Previews } from './preview.js';

const root = 'testdata/open';
const datasets = surveyFolder(root).datasets;
const named = (name: string) => ({ folder: root, dataset: datasets.find((d) => d.id.endsWith(name))! });
let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-page-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Positions of a shape, as ogr2ogr writes it. */
function theirs(path: string, fid: number): string[] {
  const told = execFileSync('ogr2ogr', ['-f', 'GeoJSON', '/vsistdout/', path, '-fid', String(fid), '-lco', 'RFC7946=NO', '-lco', 'COORDINATE_PRECISION=15'], { stdio: ['ignore', 'pipe', 'ignore'] }); // prettier-ignore
  const { features } = JSON.parse(told.toString()) as { features: { geometry: { coordinates: unknown } }[] };
  const flat = (c: unknown): number[][] =>
    Array.isArray(c) ? (typeof c[0] === 'number' ? [c as number[]] : (c as unknown[]).flatMap(flat)) : [];
  return flat(features[0]!.geometry.coordinates).map((p) => `${p[0]} ${p[1]}`);
}
const positions = (runs: readonly (readonly number[])[]): string[] =>
  runs.flatMap((run) => Array.from({ length: run.length / 2 }, (_, i) => `${run[i * 2]} ${run[i * 2 + 1]}`));

describe('what a layer draws in a frame on paper', () => {
  test('every position of the data in the frame, in the order of its records; thinned only as far as is asked', async () => {
    const found = named('columbus.shp');
    const previews = new Previews(folder);
    const { version, extent, count } = await previews.prepare(found, null, () => undefined);
    const ask = (tolerance: number, box = extent) => previews.pageShapes({ version, drawing: null, box, tolerance })!;
    const whole = ask(0);
    expect(whole.shapes).toHaveLength(count!);
    for (const n of [0, 7, 48]) expect(positions(whole.shapes[n]!.runs)).toEqual(theirs(join(root, found.dataset.group.path), n));
    const coarse = ask(0.5);
    expect(coarse.shapes).toHaveLength(count!);
    expect(positions(coarse.shapes.flatMap((s) => s.runs)).length).toBeLessThan(positions(whole.shapes.flatMap((s) => s.runs)).length / 3);
    // Each thinned run begins and ends as it did.
    coarse.shapes.forEach((s, i) => s.runs.forEach((run, k) => expect([run.slice(0, 2), run.slice(-2)]).toEqual([whole.shapes[i]!.runs[k]!.slice(0, 2), whole.shapes[i]!.runs[k]!.slice(-2)]))); // prettier-ignore
    expect(ask(0, [extent[2] + 1, extent[3] + 1, extent[2] + 2, extent[3] + 2]).shapes).toEqual([]);
  });

  test('labels stand in the frame, and along a line have its direction; a raster is none', async () => {
    const found = named('columbus.shp');
    const previews = new Previews(folder);
    const drawing = { filter: 'CRIME > 30', rules: [{ filter: null, isElse: false }], label: '{POLYID}', raster: null };
    const view = await previews.prepareLayer(found, null, drawing, () => undefined);
    const page = previews.pageShapes({ version: view.version, drawing: view.drawing, box: view.extent, tolerance: 0 })!;
    expect(page.labels).toHaveLength(page.shapes.length);
    expect(page.shapes.length).toBe(view.counts[0]);
    expect(page.labels.every((l) => l.angle === 0)).toBe(true);
    const line = await previews.prepareLayer(
      named('shape-types/polyline.shp'),
      null,
      { ...drawing, filter: '', label: 'x' },
      () => undefined,
    );
    const { labels } = previews.pageShapes({ version: line.version, drawing: line.drawing, box: line.extent, tolerance: 0 })!;
    expect(labels.length).toBeGreaterThan(0);
    for (const { angle } of labels) expect(Math.abs(angle)).toBeLessThanOrEqual(90);
    const raster = { folder: root, dataset: datasets.find((d) => d.kind === 'raster' && d.group.format === 'geotiff' && d.bbox)! };
    const picture = await previews.prepare(raster, null, () => undefined);
    expect(previews.pageShapes({ version: picture.version, drawing: null, box: picture.extent, tolerance: 0 })).toBeNull();
  });
});
