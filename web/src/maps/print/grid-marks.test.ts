import { gridMarks, type Paper, roundStep } from '@rootmap/core';
import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import type { MapCrsView } from '@rootmap/core/contract';
import { MapPlane } from '../edit/map-plane.js';

const utm = new MapPlane({
  code: 'EPSG:32624',
  name: '',
  unit: 'metre',
  proj4: '+proj=utm +zone=24 +datum=WGS84 +units=m',
} as unknown as MapCrsView);
const paper: Paper = { frame: { x: 10, y: 20, w: 200, h: 100 }, center: [482_000, 4_871_000], unitsOfMm: 25 };
const texts = (marks: ReturnType<typeof gridMarks>) =>
  marks.flatMap((m) => (m.kind === 'text' ? [{ ...m, text: m.text.replaceAll('\u202f', '') }] : []));

describe('lines of coordinates on a page', () => {
  test('of the plane: at round numbers, where they are', () => {
    const marks = gridMarks('plane', utm, paper);
    const east = texts(marks).filter((t) => t.text.startsWith('E'));
    expect(east.map((t) => t.text)).toEqual(['E 480000', 'E 481000', 'E 482000', 'E 483000', 'E 484000']);
    // 482 000 is the middle: 110 mm from the left, and a kilometre is 40 mm.
    expect(marks).toContainEqual(expect.objectContaining({ kind: 'path', d: 'M110 20V120' }));
    expect(marks).toContainEqual(expect.objectContaining({ kind: 'path', d: 'M150 20V120' }));
    expect(gridMarks('none', utm, paper)).toEqual([]);
  });

  test('of degrees: each corner of a line is where PROJ has that parallel or meridian', () => {
    const marks = gridMarks('degrees', utm, paper);
    const named = texts(marks);
    expect(named.some((t) => /^39° \d\d′( \d\d″)? W$/.test(t.text))).toBe(true);
    expect(named.some((t) => /^43° \d\d′( \d\d″)? N$|^44° N$/.test(t.text))).toBe(true);
    const corners = marks.flatMap((m) =>
      m.kind === 'path'
        ? m.d
            .split(/[ML]/)
            .slice(1)
            .map((p) => p.split(' ').map(Number))
        : [],
    );
    const plane = corners.map(([x, y]) => `${paper.center[0] + (x! - 110) * 25} ${paper.center[1] - (y! - 70) * 25}`);
    // Outside reference: PROJ's cs2cs.
    const degrees = execFileSync('cs2cs', ['-f', '%.7f', 'EPSG:32624', 'EPSG:4326'], { input: plane.join('\n') }).toString().trim().split('\n').map((l) => l.trim().split(/\s+/).map(Number)); // prettier-ignore
    // On each line one of the two is whole in seconds: a thousandth of a millimetre on paper is 0.000 000 3 degrees.
    for (const [lat, lon] of degrees) {
      const off = [lat!, lon!].map((v) => Math.abs(v * 3600 - Math.round(v * 3600)));
      expect(Math.min(...off)).toBeLessThan(0.01);
    }
  });

  test.each([
    [1125, 1000],
    [450, 500],
    [1900, 2000],
    [7.7, 10],
  ])('about %d is %d', (about, step) => expect(roundStep(about)).toBe(step));
});
