import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import { dirname, join } from '../src/disk/native-path.js';

// Worlds that are really moved, and a judge of what is found then. Nothing of the app's own code is used here, so that it can judge it.

interface PlaceSetting {
  readonly name: string;
  readonly folder: string;
  readonly driveNames: readonly string[];
}

/** A fixed sequence of numbers from 0 to 1: L'Ecuyer (1999), multiplier for modulus 2^31 - 1. */
export function seeded(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

export interface World {
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
export function makeWorld(folder: string, random: () => number): World {
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
    const rest = path
      .slice(place.folder.length + 1)
      .split('/')
      .map(encodeURIComponent)
      .join('/');
    return place.name === 'share' ? `file://harbour/gis/${rest}` : `file:///${place.driveNames[0]!}/${rest}`;
  };
  for (let m = 0; m < 3; m++) {
    const map = join(root, m === 2 ? 'maps/old/deep' : 'maps', `m${m}.owc.json`);
    const hrefs = [...inside, ...linked, ...near, ...far].map((path) => {
      const samePlace = path.startsWith(join(folder, 'desk'));
      const form = random();
      return form < 0.5 && samePlace
        ? relative(map, path)
        : form < 0.9 || !samePlace
          ? absolute(path)
          : `file://${path.split('/').map(encodeURIComponent).join('/')}`;
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

const filesBelow = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((e) => (e.isFile() ? [join(e.parentPath, e.name)] : []));

/** What happens to a world. */
export interface Happening {
  readonly to: string | null;
  readonly isCopy: boolean;
  readonly without: readonly string[];
  readonly drives: readonly { readonly place: string; readonly names: readonly string[] }[];
}
export interface Told {
  readonly map: string;
  readonly layer: string;
  readonly isSound: boolean;
  readonly isBroken: boolean;
}
export interface Outcome {
  readonly layers: number;
  readonly broken: number;
  /** Layers that were predicted to be otherwise than they are found. */
  readonly wrong: readonly { readonly map: string; readonly href: string; readonly isThere: boolean; readonly predicted: boolean }[];
}

/** Asks what would happen, then does it: the folder moves, places go, drives get their names; and looks what is found. */
export function predictAndMove(folder: string, seed: number, predict: (world: World, what: Happening) => readonly Told[]): Outcome {
  const random = seeded(seed * 7919);
  const pick = <T>(all: readonly T[]): T => all[Math.floor(random() * all.length)]!;
  const world = makeWorld(folder, random);
  const { places, root } = world;
  const to = pick([
    join(folder, 'desk', 'gis', 'renamed'),
    join(folder, 'desk', 'archive', '2026', 'study'),
    join(folder, 'stick', 'study'),
    join(folder, 'share', 'projects', 'study'),
    null,
  ]);
  const isCopy = to !== null && random() < 0.4;
  const without = random() < 0.3 ? [pick(['share', 'stick'])].filter((p) => !to?.startsWith(join(folder, p))) : [];
  const names: Record<string, string[]> = random() < 0.35 ? { desk: ['F:'] } : {};
  const told = predict(world, { to, isCopy, without, drives: Object.entries(names).map(([place, n]) => ({ place, names: n })) });
  if (to !== null) {
    mkdirSync(dirname(to), { recursive: true });
    if (isCopy) cpSync(root, to, { recursive: true });
    else renameSync(root, to);
  }
  for (const name of without) renameSync(join(folder, name), join(folder, `${name}.away`));
  const drives = drivesOf(places, names, without);
  const wrong: Outcome['wrong'][number][] = [];
  let layers = 0;
  for (const map of filesBelow(to ?? root).filter((f) => f.endsWith('.owc.json'))) {
    const was = join(root, map.slice((to ?? root).length));
    const { features } = JSON.parse(readFileSync(map, 'utf8')) as {
      features: { id: string; properties: { offerings: { contents: { href: string }[] }[] } }[];
    };
    for (const f of features) {
      const { href } = f.properties.offerings[0]!.contents[0]!;
      const predicted = told.find((t) => t.map === was && t.layer === f.id)?.isSound;
      const found = isThere(map, href, drives);
      layers++;
      if (predicted !== found) wrong.push({ map, href, isThere: found, predicted: predicted === true });
    }
  }
  return { layers, broken: told.filter((t) => t.isBroken).length, wrong };
}
