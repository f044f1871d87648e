import { describe, expect, test } from '@jest/globals';
import { PIXEL_METRES, scaleOf } from '../crs/distortion.js';
import { PLAIN_RASTER, plainSymbol, type Look } from '../look/look.js';
import { locatorMarks, regionOf } from './locator.js';
import { legendRows } from './legend-marks.js';
import { barOf, mapFrame, pageMarks } from './page-marks.js';
import type { PageMark, PageSpec } from './page-model.js';

const spec: PageSpec = {
  width: 297,
  height: 210,
  title: 'Moorings',
  scale: 25_000,
  crs: 'EPSG:32624',
  legend: [],
  notes: [],
  grid: [],
  picture: null,
  locator: [],
  legendColumns: 1,
  attribution: 'Harbour office',
  date: '2026-03-14',
  hasLegend: true,
  hasBar: true,
  hasNorth: true,
  north: 0,
};
const texts = (marks: readonly PageMark[]): Record<string, string> =>
  Object.fromEntries(marks.flatMap((m) => (m.kind === 'text' ? [[m.what, m.text]] : [])));

describe('the scale bar and 1:n agree', () => {
  // Common practice, no source: a bar of b millimetres at 1:n stands for b n / 1000 metres.
  test.each([500, 1000, 2500, 5000, 10_000, 24_999, 25_000, 50_000, 100_000, 1_000_000, 12_345_678])('1:%i', (scale) => {
    const { metres, mm } = barOf(scale);
    expect((mm * scale) / 1000).toBeCloseTo(metres, 6);
    expect(mm).toBeLessThanOrEqual(60.000001);
    expect(mm).toBeGreaterThan(20);
    expect([1, 2, 5]).toContain(metres / 10 ** Math.floor(Math.log10(metres)));
  });
  // Source: OGC 05-077r4, 10.2: a pixel of 0.28 mm; at 1:25,000 the frame of A4 shows 6.925 km.
  test('what the frame shows on the ground is its width on paper times n', () => {
    const frame = mapFrame(spec);
    const pixels = frame.w / 1000 / PIXEL_METRES;
    const resolution = (frame.w / 1000) * (25_000 / pixels);
    expect(scaleOf(resolution, 1, 1)).toBeCloseTo(25_000, 6);
    expect(frame.w * 25).toBe(6925);
  });
});

describe('what stands on the page', () => {
  test('title, scale, bar, north, attribution, date', () => {
    expect(texts(pageMarks(spec))).toEqual({
      title: 'Moorings',
      scale: '1:25\u202f000 · EPSG:32624',
      'bar-zero': '0',
      bar: '1 km',
      north: 'N',
      attribution: 'Harbour office',
      date: '2026-03-14',
    });
  });
  test('nothing that was not asked for', () => {
    const marks = pageMarks({ ...spec, hasBar: false, hasNorth: false, attribution: '' });
    expect(Object.keys(texts(marks)).sort()).toEqual(['date', 'scale', 'title']);
  });
  test('the legend has a row for every layer and class, inside the frame, and says when there are more', () => {
    const symbol = plainSymbol('area');
    const legend: PageSpec['legend'] = [
      {
        title: 'Beds',
        kind: 'area',
        range: null,
        look: {
          kind: 'by-value',
          field: 'k',
          entries: [
            { value: 1, title: 'reef', symbol },
            { value: 2, title: 'bank', symbol },
          ],
          other: symbol,
        },
      },
      { title: 'Depth', kind: 'raster', look: PLAIN_RASTER, range: { from: 8.0625, to: 41.27 } },
    ];
    const rows = (l: PageSpec['legend']): string[] =>
      pageMarks({ ...spec, legend: l }).flatMap((m) => (m.kind === 'text' && m.what === 'legend' ? [m.text] : []));
    expect(rows(legend)).toEqual(['Beds', 'reef', 'bank', 'all others', 'Depth', '8.06 to 41.3']);
    const many = rows(
      Array.from({ length: 200 }, (_, i) => ({
        title: `L${i}`,
        kind: 'area' as const,
        range: null,
        look: { kind: 'one' as const, symbol },
      })),
    );
    expect(many.at(-1)).toMatch(/^and \d+ more$/);
    const frame = mapFrame(spec);
    const long = pageMarks({ ...spec, legend: Array.from({ length: 200 }, () => legend[1]!) });
    const box = long.find((m) => m.kind === 'rect' && m.opacity === 0.92)!;
    const letter = long.find((m) => m.kind === 'text' && m.what === 'north')!;
    expect((box as { y: number }).y).toBeGreaterThan((letter as { y: number }).y); // the arrow stays free
    for (const m of pageMarks({ ...spec, legend })) if (m.kind === 'rect') expect(m.y + m.h).toBeLessThanOrEqual(frame.y + frame.h + 6);
  });
  test('the ramp of a raster shows its colours where their values stand, and not black', () => {
    const stops = (...of: [number, string][]) => of.map(([value, colour]) => ({ value, colour, opacity: 1 }));
    const tones = (look: Look): (string | null)[] =>
      pageMarks({ ...spec, legend: [{ title: 'Depth', kind: 'raster', look, range: null }] }).flatMap((m) =>
        m.kind === 'rect' && m.h === 3.4 ? [m.fill] : [],
      );
    const grey = tones(PLAIN_RASTER);
    expect([new Set(grey).size > 20, grey[0]! < '#101010', grey.at(-1)! > '#f0f0f0']).toEqual([true, true, true]);
    // Nine tenths of the way are blue, the rest is red.
    const shore = tones({ ...PLAIN_RASTER, ramp: stops([-90, '#0000ff'], [0, '#0000ff'], [0.001, '#ff0000'], [10, '#ff0000']) });
    expect(shore.filter((t) => t === '#0000ff').length / shore.length).toBeCloseTo(0.9, 1);
    expect(tones({ ...PLAIN_RASTER, ramp: stops([5, '#123456']) })).toEqual(shore.map(() => '#123456'));
  });
  test('north turns with the projection', () => {
    const tip = (north: number): number =>
      Number(
        /M(-?[\d.]+) /.exec(pageMarks({ ...spec, north }).flatMap((m) => (m.kind === 'path' && m.fill === '#1c2a27' ? [m.d] : []))[0]!)![1],
      );
    expect(tip(0)).toBeCloseTo(278, 3);
    expect(tip(10)).toBeGreaterThan(tip(0) + 0.5);
  });
});

describe('what else stands on a page', () => {
  const marksOf = (over: Partial<PageSpec>): PageMark[] => pageMarks({ ...spec, ...over });
  test('a picture keeps its shape, and takes two fifths of the map at most', () => {
    const at = (width: number) =>
      marksOf({ picture: { data: 'data:image/png;base64,', aspect: 2, width } }).find((m) => m.kind === 'picture')!;
    expect(at(30)).toMatchObject({ x: 13, w: 30, h: 15 });
    const frame = mapFrame(spec);
    expect(at(900).w).toBeCloseTo(Math.min(frame.w * 0.4, frame.h * 0.4 * 2), 9);
  });

  test('columns of a legend take more rows, and all stay on the page', () => {
    const legend = Array.from({ length: 70 }, (_, i) => ({
      title: `layer ${i}`,
      kind: 'area' as const,
      look: { kind: 'one' as const, symbol: plainSymbol('area') },
      range: null,
    }));
    const rows = (legendColumns: number) => legendRows({ legend, hasNorth: true, legendColumns }, mapFrame(spec));
    expect(rows(1).left).toBeGreaterThan(rows(2).left);
    expect(rows(3).left).toBe(0);
    const labels = marksOf({ legend, legendColumns: 3 }).filter((m) => m.kind === 'text' && m.what === 'legend') as {
      x: number;
      y: number;
    }[];
    expect(labels).toHaveLength(70);
    expect(new Set(labels.map((l) => l.x)).size).toBe(3);
    const frame = mapFrame(spec);
    expect(labels.every((l) => l.x >= frame.x && l.x < frame.x + frame.w && l.y > frame.y && l.y < frame.y + frame.h)).toBe(true);
  });

  test('the map of the region stands below the picture; the page is marked where it lies', () => {
    // By hand: a page of 1° by 0.5° at the equator; the region is 6° by 7.6°, its middle 19 by 15 mm from the corner.
    const page = [9.5, -0.25, 10.5, 0.25] as const;
    const region = regionOf(page);
    expect((region[2] - region[0]) / (region[3] - region[1])).toBeCloseTo(38 / 30, 6);
    const marks = locatorMarks(() => [[[9, -1], [11, -1], [11, 1]]], page); // prettier-ignore
    const mark = marks.find((m) => m.kind === 'rect' && m.stroke === '#8e2a62') as { x: number; y: number; w: number; h: number };
    expect([mark.x + mark.w / 2, mark.y + mark.h / 2]).toEqual([expect.closeTo(19, 6), expect.closeTo(15, 6)]);
    const on = marksOf({ locator: marks, picture: { data: 'data:image/png;base64,', aspect: 1, width: 20 } });
    const placed = on.find((m) => m.kind === 'rect' && m.stroke === '#8e2a62') as { x: number; y: number; w: number; h: number };
    expect([placed.x - mark.x, placed.y - mark.y]).toEqual([expect.closeTo(13, 6), expect.closeTo(22 + 3 + 23, 6)]);
    const path = on.find((m) => m.kind === 'path' && m.fill === '#efe9da') as { d: string };
    const [x] = /M([\d.]+)/.exec(path.d)!.slice(1).map(Number);
    expect(x).toBeGreaterThan(13);
  });

  test('at sea the region grows until land is in it', () => {
    const asked: number[] = [];
    locatorMarks(([, south, , north]) => (asked.push(north - south), north - south > 50 ? [[[0, 0], [1, 0], [1, 1]]] : []), [10, 0, 10.1, 0.1]); // prettier-ignore
    expect(asked.map(Math.round)).toEqual([6, 20, 60, 60]);
  });

  test('what is as small as a point on the map of the region is marked all the same', () => {
    const marks = locatorMarks(() => [], [10, 60, 10.001, 60.001]);
    expect(marks.find((m) => m.kind === 'rect' && m.stroke === '#8e2a62')).toMatchObject({ w: 1.6, h: 1.6 });
  });
});

describe('texts of one’s own', () => {
  const marks = (notes: PageSpec['notes']) => {
    const all = pageMarks({ ...spec, notes });
    return {
      boxes: all.filter((m) => m.kind === 'rect' && m.opacity === 0.92),
      lines: all.filter((m) => m.kind === 'text' && m.what === 'note'),
    };
  };
  test('each stands where it is wanted, and those of one place never over each other', () => {
    const { boxes, lines } = marks([
      { text: 'one\ntwo', place: 'lower-left' },
      { text: 'three', place: 'lower-left' },
      { text: 'Draft', place: 'upper-middle' },
      { text: ' ', place: 'lower-right' },
    ]);
    expect(lines.map((m) => m.kind === 'text' && m.text)).toEqual(['one', 'two', 'three', 'Draft']);
    const [first, second, draft] = boxes as { x: number; y: number; w: number; h: number }[];
    const frame = mapFrame(spec);
    expect(second!.y + second!.h).toBeLessThan(first!.y);
    expect(first!.y + first!.h).toBeLessThan(frame.y + frame.h);
    expect(draft!.x + draft!.w / 2).toBeCloseTo(frame.x + frame.w / 2, 6);
    expect(draft!.y).toBeLessThan(frame.y + 10);
    expect(boxes).toHaveLength(3);
  });
});
