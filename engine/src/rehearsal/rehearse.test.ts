import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { openPlace, type PlaceSetting } from '../places/places.js';
import { findScope } from '../project/scope.js';
import { rehearse, STAY, type RehearsalOrder } from './rehearse.js';

let base: string;
beforeAll(() => (base = mkdtempSync(join(tmpdir(), 'rootmap-rehearse-'))));
afterAll(() => rmSync(base, { recursive: true, force: true }));

/** A fixed sequence of numbers from 0 to 1: L'Ecuyer (1999), multiplier for modulus 2^31 - 1. */
function seeded(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

interface World {
  readonly folder: string;
  readonly places: readonly PlaceSetting[];
  readonly root: string;
}

/**
 * What a layer reaches, worked out with Node alone: nothing of the app's own code is used. Sound or not is all that it says.
 * @param drives what addresses of other machines mean here, by their first letters
 */
function isThere(mapPath: string, href: string, drives: Readonly<Record<string, string | null>>): boolean {
  const [path = ''] = href.split('#');
  let real: string | null;
  if (path.startsWith('file:///') && /^[A-Za-z]:/.test(path.slice(8))) {
    const folder = drives[path.slice(8, 10).toUpperCase()];
    real = folder === undefined || folder === null ? null : join(folder, decodeURIComponent(path.slice(11)));
  } else if (path.startsWith('file://')) {
    const url = new URL(path);
    const share = url.host === '' ? null : (drives[`//${url.host}${url.pathname.split('/').slice(0, 2).join('/')}`] ?? null);
    real =
      url.host === ''
        ? decodeURIComponent(url.pathname)
        : share === null
          ? null
          : join(share, decodeURIComponent(url.pathname.split('/').slice(2).join('/')));
  } else real = new URL(path, pathToFileURL(mapPath)).pathname.split('/').map(decodeURIComponent).join('/');
  return real !== null && existsSync(real) && statSync(real).isFile();
}

const POINT =
  '{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coordinates":[1,2]},"properties":{"a":1}}]}';

/** A project with data inside, linked and outside, and references in every form. */
function makeWorld(folder: string, random: () => number): World {
  const places: PlaceSetting[] = [
    { name: 'desk', folder: join(folder, 'desk'), driveNames: ['D:'] },
    { name: 'share', folder: join(folder, 'share'), driveNames: ['\\\\harbour\\gis'] },
    { name: 'stick', folder: join(folder, 'stick'), driveNames: ['E:'] },
  ];
  const root = join(folder, 'desk', 'gis', 'study');
  const put = (path: string, text = POINT): string => {
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, text);
    return path;
  };
  for (const p of places) mkdirSync(p.folder, { recursive: true });
  const inside = Array.from({ length: 6 }, (_, i) => put(join(root, 'received', `in ${i}.geojson`)));
  const linked = Array.from({ length: 3 }, (_, i) => put(join(folder, 'share', 'base', `linked_${i}.geojson`)));
  const near = Array.from({ length: 3 }, (_, i) => put(join(folder, 'desk', 'gis', 'other', `near_${i}.geojson`)));
  const far = [put(join(folder, 'stick', 'brought', 'far.geojson'))];
  put(
    join(root, 'study.rootmap.json'),
    JSON.stringify({
      format: 'rootmap-project/1',
      id: 'x',
      name: 'study',
      links: [{ name: 'base', path: null, address: 'file://harbour/gis/base' }],
    }),
  );
  const relative = (map: string, to: string): string => {
    const a = dirname(map).split('/');
    const b = to.split('/');
    let n = 0;
    while (n < a.length && n < b.length - 1 && a[n] === b[n]) n++;
    return [...a.slice(n).map(() => '..'), ...b.slice(n).map(encodeURIComponent)].join('/');
  };
  const absolute = (path: string): string => {
    const place = places.find((p) => path.startsWith(`${p.folder}/`))!;
    const rest = path.slice(place.folder.length + 1).split('/').map(encodeURIComponent).join('/'); // prettier-ignore
    return place.name === 'share' ? `file://harbour/gis/${rest}` : `file:///${place.driveNames[0]!}/${rest}`;
  };
  for (let m = 0; m < 3; m++) {
    const map = join(root, m === 2 ? 'maps/old/deep' : 'maps', `m${m}.owc.json`);
    const hrefs = [...inside, ...linked, ...near, ...far].map((path) => {
      const samePlace = path.startsWith(join(folder, 'desk'));
      const form = random();
      return form < 0.5 && samePlace ? relative(map, path) : form < 0.9 || !samePlace ? absolute(path) : `file://${path.split('/').map(encodeURIComponent).join('/')}`; // prettier-ignore
    });
    put(
      map,
      JSON.stringify({
        type: 'FeatureCollection',
        properties: { title: `m${m}` },
        features: hrefs.map((href, i) => ({
          type: 'Feature',
          id: `l${i}`,
          properties: { title: `L${i}`, offerings: [{ code: 'x', contents: [{ href }] }] },
        })),
      }),
    );
  }
  return { folder, places, root };
}

const filesBelow = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((e) => (e.isFile() ? [join(e.parentPath, e.name)] : []));

/** Names of drives as the judge knows them, for places that are there. */
const drivesOf = (
  places: readonly PlaceSetting[],
  names: Readonly<Record<string, readonly string[]>>,
  away: readonly string[],
): Record<string, string | null> =>
  Object.fromEntries(
    places.flatMap((p) =>
      (names[p.name] ?? p.driveNames).map(
        (d) => [d.startsWith('\\\\') ? d.replaceAll('\\', '/') : d, away.includes(p.name) ? null : p.folder] as const,
      ),
    ),
  );

describe('the rehearsal equals what is found when the move is made', () => {
  const cases = 40; // the bench makes 500
  let broken = 0;
  let layers = 0;
  test.each(Array.from({ length: cases }, (_, i) => i + 1))('move %i', (seed) => {
    const random = seeded(seed * 7919);
    const pick = <T>(all: readonly T[]): T => all[Math.floor(random() * all.length)]!;
    const world = makeWorld(join(base, String(seed)), random);
    const { places, root, folder } = world;
    const scope = findScope(root, { places: places.map(openPlace), root });
    const target = pick([
      join(folder, 'desk', 'gis', 'renamed'),
      join(folder, 'desk', 'archive', '2026', 'study'),
      join(folder, 'stick', 'study'),
      join(folder, 'share', 'projects', 'study'),
      null,
    ]);
    const isCopy = target !== null && random() < 0.4;
    const away = random() < 0.3 ? [pick(['share', 'stick'])].filter((p) => !target?.startsWith(join(folder, p))) : [];
    const names: Record<string, string[]> = random() < 0.35 ? { desk: ['F:'] } : {};
    const order: RehearsalOrder = { ...STAY, to: target, isCopy, without: away, drives: Object.entries(names).map(([place, n]) => ({ place, names: n })) }; // prettier-ignore
    const told = rehearse(scope, order).layers;

    // Now it is really done: the folder moves, places go, drives get their names; the judge looks with Node alone.
    if (target !== null) {
      mkdirSync(dirname(target), { recursive: true });
      if (isCopy) cpSync(root, target, { recursive: true });
      else renameSync(root, target);
    }
    for (const name of away) renameSync(join(folder, name), join(folder, `${name}.away`));
    const drives = drivesOf(places, names, away);
    for (const map of filesBelow(target ?? root).filter((f) => f.endsWith('.owc.json'))) {
      const was = join(root, map.slice((target ?? root).length));
      const features = (JSON.parse(readFileSync(map, 'utf8')) as { features: { id: string; properties: { offerings: { contents: { href: string }[] }[] } }[] }).features; // prettier-ignore
      for (const f of features) {
        const { href } = f.properties.offerings[0]!.contents[0]!;
        const row = told.find((l) => l.map.path === was && l.layer === f.id)!;
        layers++;
        if (row.isBroken) broken++;
        expect({ map, href, isSound: row.after.state === 'sound' }).toEqual({ map, href, isSound: isThere(map, href, drives) });
      }
    }
  });
  test('enough of the cases break', () => expect(broken / layers).toBeGreaterThan(0.2));
});

describe('scenarios', () => {
  const build = (name: string) => {
    const world = makeWorld(join(base, name), seeded(5));
    return { ...world, scope: findScope(world.root, { places: world.places.map(openPlace), root: world.root }) };
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
  test('nothing happens: nothing changes', () => {
    const { scope } = build('stay');
    const { layers, broken } = rehearse(scope, STAY);
    expect(broken).toBe(0);
    for (const l of layers) expect(l.after).toEqual(l.before);
  });
});
