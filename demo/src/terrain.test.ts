import { describe, expect, test } from '@jest/globals';
import { fairway } from './fairways.js';
import { downhill, GRASS, onCoast, patch, somewhere } from './ground.js';
import { isolines, land } from './isolines.js';
import { seeded } from './random.js';
import { areas } from './shapes.js';
import { BAY, depthAt, heightAt } from './terrain.js';

// Invented ground: what is checked is that everything lies where the ground says, by the function that makes the ground alone.
describe('what lies on the ground of the demo follows it', () => {
  const random = seeded(7);
  test('land in the north, open sea in the south, islands between', () => {
    expect(heightAt((BAY.minx + BAY.maxx) / 2, BAY.maxy)).toBeGreaterThan(10);
    expect(depthAt([BAY.maxx - 100, BAY.miny + 100])).toBeGreaterThan(12);
    expect(land().length).toBeGreaterThanOrEqual(5);
  });
  test('contours keep their depth', () => {
    for (const depth of [2, 5, 10, 20])
      for (const line of isolines(-depth).slice(0, 4))
        for (const at of line) expect(Math.abs(depthAt(at) - depth)).toBeLessThan(Math.max(1.5, depth * 0.25));
  });
  test('a fairway keeps to water that a ship can use', () => {
    const way = fairway([486_900, 4_868_100], [481_380, 4_872_650]);
    expect(way.length).toBeGreaterThan(10);
    for (const at of way) expect(depthAt(at)).toBeGreaterThan(2);
  });
  test('grass grows in its depths, and its outlines do not cross themselves', () => {
    const { shapes } = areas(random, 20, 300, 'bed_name');
    for (const [ring] of shapes) {
      const mean = ring!.reduce((sum, at) => sum + depthAt(at), 0) / ring!.length;
      expect(mean).toBeGreaterThan(0.3);
      expect(mean).toBeLessThan(9);
      const signed = ring!.slice(1).reduce((sum, [x, y], i) => sum + (ring![i]![0] * y - x * ring![i]![1]) / 2, 0);
      expect(signed).toBeLessThan(0); // clockwise, as shapefiles want outer rings (ESRI Shapefile Technical Description, 1998)
    }
    expect(patch(random, somewhere(random, GRASS), 200, GRASS).at(0)).toBeDefined();
  });
  test('lights stand on the coast; transects go down', () => {
    for (const at of onCoast(9, [481_380, 4_872_650])) expect(Math.abs(heightAt(...at))).toBeLessThan(4);
    const line = downhill(somewhere(random, [1, 3]), 45, 8);
    expect(depthAt(line.at(-1)!)).toBeGreaterThan(depthAt(line[0]!));
  });
});
