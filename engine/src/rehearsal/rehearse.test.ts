import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Place } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { makeWorld, predictAndMove, seeded, type World } from '../../test/rehearsal-world.js';
import { openPlace } from '../places/places.js';
import { findScope, rooted } from '../project/scope.js';
import { rehearse, STAY } from './rehearse.js';

let base: string;
beforeAll(() => {
  base = mkdtempSync(join(tmpdir(), 'rootmap-rehearse-'));
});
afterAll(() => rmSync(base, { recursive: true, force: true }));

const settings = (world: World): Place[] => world.places.map(openPlace);

describe('the rehearsal equals what is found when the move is made', () => {
  const cases = 40; // the bench makes 500
  let broken = 0;
  let layers = 0;
  test.each(Array.from({ length: cases }, (_, i) => i + 1))('move %i', (seed) => {
    const outcome = predictAndMove(join(base, String(seed)), seed, (world, what) =>
      rehearse(rooted(findScope(world.root, { places: settings(world), root: world.root })), { ...STAY, ...what }).layers.map((l) => ({
        map: l.map.path,
        layer: l.layer,
        isSound: l.after.state === 'sound',
        isBroken: l.isBroken,
      })),
    );
    broken += outcome.broken;
    layers += outcome.layers;
    expect(outcome.wrong).toEqual([]);
  });
  test('enough of the cases break', () => expect(broken / layers).toBeGreaterThan(0.2));
});

describe('scenarios', () => {
  const build = (name: string) => {
    const world = makeWorld(join(base, name), seeded(5));
    return { ...world, scope: rooted(findScope(world.root, { places: world.places.map(openPlace), root: world.root })) };
  };
  test('copied to a stick and opened elsewhere: only what is inside and relative stays', () => {
    const { scope } = build('elsewhere');
    const { layers } = rehearse(scope, { ...STAY, to: 'G:\\study', isCopy: true, isElsewhere: true });
    for (const l of layers)
      expect([l.title, l.after.state === 'sound']).toEqual([l.title, l.before.reach === 'inside' && l.before.stored === 'relative']);
    const fixes = new Set(layers.filter((l) => l.isBroken).map((l) => l.fix));
    expect(fixes).toEqual(new Set(['relative', 'bring-in']));
  });
  test('a long path: what Windows cannot open is told with its length', () => {
    const { scope } = build('long');
    const { layers } = rehearse(scope, {
      ...STAY,
      to: `C:\\${'very_long_folder_name\\'.repeat(11)}`,
      isCopy: true,
      isElsewhere: true,
      hasPathLimit: true,
    });
    const long = layers.filter((l) => l.after.reason === 'path-too-long');
    expect(long.length).toBeGreaterThan(0);
    expect(long[0]!.after.detail).toMatch(/^its path would have 2\d\d characters, and 259 can be opened$/);
    expect(long[0]!.fix).toBe('shorten');
  });
  test('a disk that tells case apart', () => {
    const { scope, root } = build('case');
    const map = join(root, 'maps', 'm0.owc.json');
    writeFileSync(map, readFileSync(map, 'utf8').replaceAll('/received/in%200', '/Received/IN%200'));
    const of = (isStrict: boolean) => rehearse({ ...scope, maps: [map] }, { ...STAY, isStrict }).layers[0]!;
    expect([of(false).after.state, of(true).after.state, of(true).fix]).toEqual(['sound', 'adrift', 'respell']);
  });
  test('styles in files of their own: inside they come along, outside they are lost elsewhere, or without their place', () => {
    const { scope, root } = build('styles');
    const map = join(root, 'maps', 'm0.owc.json');
    const json = JSON.parse(readFileSync(map, 'utf8'));
    const hrefs = ['inside.sld', '../../outside.sld', 'never.sld'];
    hrefs.forEach((href, i) => (json.features[i].properties.offerings[0].styles = [{ name: 's', content: { href } }]));
    writeFileSync(map, JSON.stringify(json));
    for (const href of hrefs.slice(0, 2)) writeFileSync(join(root, 'maps', href), '<a/>');
    const lost = (more: object) =>
      rehearse({ ...scope, maps: [map] }, { ...STAY, ...more })
        .layers.slice(0, 3)
        .map((l) => l.lostStyle);
    expect(lost({})).toEqual([null, null, null]);
    expect(lost({ to: 'G:\\study', isCopy: true, isElsewhere: true })).toEqual([null, '../../outside.sld', null]);
    expect(lost({ to: join(root, '..', 'deeper', 'study') })).toEqual([null, '../../outside.sld', null]);
  });
  test('nothing happens: nothing changes', () => {
    const { scope } = build('stay');
    const { layers, broken } = rehearse(scope, STAY);
    expect(broken).toBe(0);
    for (const l of layers) expect(l.after).toEqual(l.before);
  });
});
