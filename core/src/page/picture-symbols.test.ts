import { expect, test } from '@jest/globals';
import { plainSymbol } from '../look/look.js';
import { svgPage } from './svg-page.js';
import { layerMarks, shapeMarks, type LineLayer, type Paper } from './vector-marks.js';

/** 1:25,000 in a CRS of metres: a millimetre is 25 m. */
const paper: Paper = { frame: { x: 10, y: 20, w: 200, h: 100 }, center: [500_000, 4_800_000], unitsOfMm: 25 };
const layer: LineLayer = {
  id: 'a',
  look: { kind: 'one', symbol: { ...plainSymbol('point'), size: 10, picture: 'buoy.png' } },
  label: null,
  opacity: 0.5,
  picture: { version: 'v', drawing: null, classes: [] },
};
const shapes = {
  shapes: [
    { c: 0, kind: 'point' as const, runs: [[500_000, 4_800_000, 500_250, 4_800_250]] },
    { c: 0, kind: 'line' as const, runs: [[500_000, 4_800_000, 500_025, 4_800_000]] },
  ],
  labels: [],
};

test('a picture is as wide as its symbol, its middle on the point; what is no point has its line', () => {
  const [one, two, line] = layerMarks(
    layer,
    shapes,
    paper,
    25_000,
    new Map([['buoy.png', { data: 'data:image/png;base64,AA', aspect: 2 }]]),
  );
  // 10 pixels of 0.28 mm (OGC 05-077r4, 11.1.3); the second point is 250 m to the east and to the north.
  expect(one).toMatchObject({ kind: 'picture', opacity: 0.5, clip: paper.frame });
  expect(one).toMatchObject({
    x: expect.closeTo(108.6, 9),
    y: expect.closeTo(67.2, 9),
    w: expect.closeTo(2.8, 9),
    h: expect.closeTo(5.6, 9),
  });
  expect(two).toMatchObject({ x: expect.closeTo(118.6, 9), y: expect.closeTo(57.2, 9) });
  expect(line).toMatchObject({ kind: 'shapes', isArea: false });
});

test('without its picture a point has its mark', () => {
  expect(layerMarks(layer, shapes, paper, 25_000, new Map()).map((m) => m.kind)).toEqual(['shapes', 'shapes']);
  expect(shapeMarks(layer, shapes, paper, 25_000)).toHaveLength(2);
});

test('in SVG a picture that is drawn more than once stands in the file once', () => {
  const picture = (x: number, data: string) => ({
    kind: 'picture' as const,
    x,
    y: 1,
    w: 2,
    h: 4,
    clip: null,
    data,
    opacity: x === 1 ? 0.5 : 1,
  });
  const text = svgPage({ width: 10, height: 10 }, [picture(1, 'data:a'), picture(2, 'data:b'), picture(3, 'data:a')], null, 't');
  expect(text.match(/data:a/g)).toHaveLength(1);
  expect(text).toContain('<g opacity="0.5"><use xlink:href="#picture1" transform="translate(1 1) scale(2 4)"/></g>');
  expect(text).toContain('<g><use xlink:href="#picture1" transform="translate(3 1) scale(2 4)"/></g>');
  expect(text).toMatch(/<image x="2"[^>]*data:b/);
});
