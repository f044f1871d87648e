/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import {
  boxOfFrame,
  labelMarks,
  plainSymbol,
  shapeMarks,
  svgPage,
  type Label,
  type LayerSymbol,
  type LineLayer,
  type Paper,
} from '@rootmap/core';
import type { PageShapes } from '@rootmap/core/contract';
import type { SceneLayer } from '../edit/map-scene.js';
import { lineLayer } from './line-layer.js';

/** 1:25,000 in a CRS of metres: a millimetre is 25 m. */
const paper: Paper = { frame: { x: 10, y: 20, w: 200, h: 100 }, center: [500_000, 4_800_000], unitsOfMm: 25 };
const layer = (symbol: Partial<LayerSymbol>, over: object = {}): SceneLayer =>
  ({
    look: { kind: 'one', symbol: { ...plainSymbol('area'), ...symbol } },
    picture: { kind: 'vector', drawing: null, classes: [] },
    service: null,
    opacity: 0.5,
    ...over,
  }) as unknown as SceneLayer;
const ofLines = (...of: Parameters<typeof layer>): LineLayer => lineLayer(layer(...of))!;
const square: PageShapes = { shapes: [{ c: 0, kind: 'area', runs: [[500_000, 4_800_000, 500_250, 4_800_000, 500_250, 4_800_250, 500_000, 4_800_000]] }], labels: [] }; // prettier-ignore

describe('shapes on paper', () => {
  test('stand where the scale puts them, in millimetres, north up', () => {
    const [mark] = shapeMarks(ofLines({ fill: '#112233', fillOpacity: 0.8, stroke: null }), square, paper, 25_000);
    expect(mark).toMatchObject({ isArea: true, fill: '#112233', fillOpacity: 0.4, stroke: null, clip: paper.frame });
    expect(mark!.runs).toEqual([[110, 70, 120, 70, 120, 60, 110, 70]]);
    expect(boxOfFrame(paper)).toEqual([497_500, 4_798_750, 502_500, 4_801_250]);
  });

  test('widths and dashes of 0.28 mm a pixel (OGC 05-077r4, 11.1.3); lines drawn alike are one path, areas stay apart', () => {
    const line = (x: number): PageShapes['shapes'][number] => ({ c: 0, kind: 'line', runs: [[x, 4_800_000, x + 25, 4_800_000]] });
    const marks = shapeMarks(
      ofLines({ stroke: '#00ff00', strokeWidth: 2, dash: [5, 5] }),
      { shapes: [line(500_000), line(500_100)], labels: [] },
      paper,
      25_000,
    );
    expect(marks).toHaveLength(1);
    expect(marks[0]).toMatchObject({ width: expect.closeTo(0.56, 9), fill: null, strokeOpacity: 0.5 });
    expect(marks[0]!.runs).toHaveLength(2);
    marks[0]!.dash!.forEach((d) => expect(d).toBeCloseTo(1.4, 9));
    const two = shapeMarks(ofLines({}), { ...square, shapes: [...square.shapes, ...square.shapes] }, paper, 25_000);
    expect(two).toHaveLength(2);
  });

  test('a class is drawn by its rules, and not beyond their scales', () => {
    const rules = [1, 2].map((n) => ({
      title: '',
      filter: null,
      isElse: false,
      minScale: n === 2 ? 50_000 : null,
      maxScale: null,
      symbol: { ...plainSymbol('area'), fill: `#00000${n}` },
    }));
    const ruled = layer({}, { look: { kind: 'rules', rules }, picture: { kind: 'vector', drawing: 'a', classes: [[0, 1]] } });
    expect(shapeMarks(lineLayer(ruled)!, square, paper, 25_000).map((m) => m.fill)).toEqual(['#000001']);
    expect(shapeMarks(lineLayer(ruled)!, square, paper, 60_000).map((m) => m.fill)).toEqual(['#000001', '#000002']);
  });

  test('what is a picture is not of lines', () => {
    expect(lineLayer(layer({}))).not.toBeNull();
    expect(lineLayer(layer({ picture: 'buoy.png' }))).toBeNull();
    expect(lineLayer(layer({}, { picture: null }))).toBeNull();
    expect(lineLayer(layer({}, { service: {} }))).toBeNull();
  });
});

describe('labels on paper', () => {
  const label: Label = { template: '{n}', size: 10, colour: '#111111', halo: { colour: '#ffffff', width: 1 }, placement: 'over' };
  const at = (text: string, x: number, angle = 0) => ({ text, at: [500_000 + x, 4_800_000] as const, angle });
  const width = (text: string, size: number): number => text.length * size * 0.6;

  test('none lies over another: the upper layer’s stays, and the rest is counted', () => {
    const { marks, left } = labelMarks(
      [
        { label, labels: [at('upper', 0), at('far', 1000)] },
        { label, labels: [at('lower', 20)] },
      ],
      paper,
      width,
    );
    expect([marks.map((m) => m.text), left]).toEqual([['upper', 'far'], 1]);
    expect(marks[0]).toMatchObject({ size: expect.closeTo(2.8, 9), align: 'center', halo: { width: expect.closeTo(0.56, 9) } });
  });

  test('beside a point, above it, along a line', () => {
    const one = (placement: Label['placement'], angle = 0) =>
      labelMarks([{ label: { ...label, placement }, labels: [at('a', 0, angle)] }], paper, width).marks[0]!;
    expect(one('right').x).toBeGreaterThan(110);
    expect(one('right').align).toBe('left');
    expect(one('above').y).toBeLessThan(70 - 2);
    expect([one('along', 30).angle, one('over', 30).angle]).toEqual([30, 0]);
  });
});

test('a page as SVG: what stands in names and labels does no harm, labels turn, rings are even–odd', () => {
  const [area] = shapeMarks(ofLines({}), square, paper, 25_000);
  const bad = '<script>&"';
  const label: Label = { template: '', size: 10, colour: '#111111', halo: null, placement: 'along' };
  const { marks } = labelMarks([{ label, labels: [{ text: bad, at: [500_000, 4_800_000], angle: 45 }] }], paper, () => 5);
  const svg = svgPage({ width: 297, height: 210 }, [{ kind: 'map', ...paper.frame }, area!, ...marks], null, bad);
  expect(svg).not.toContain('<script>');
  expect(svg.match(/&lt;script&gt;&amp;&quot;/g)).toHaveLength(2);
  expect(svg).toContain('fill-rule="evenodd"');
  expect(svg).toContain('rotate(-45 ');
  expect(svg).toContain('viewBox="0 0 297 210"');
  const document = new DOMParser().parseFromString(svg, 'image/svg+xml');
  expect(document.querySelector('parsererror')).toBeNull();
});
