import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Content } from '../plain-data.js';
import { keepCopies } from './kept.js';
import { edition, generalised, otherTable, withOneEdit } from './variants.js';
import { TOPICS, type DamagedWorld, type Item, type LayerMade, type Site, type World } from './world.js';

/** Writes the project. Between this and `damage` its maps may be told to remember their data. */
export function buildWorld(w: World): { places: DamagedWorld['places']; root: string } {
  const sites: Site[] = [];
  let n = 0;
  while (n < w.datasets) {
    const size = Math.min(w.whole(3, 8), w.datasets - n);
    const where = w.random();
    const base = where < 0.76 ? join(w.root, 'received') : where < 0.88 ? w.link : join(w.folder, 'stick', 'brought');
    const folder = join(base, `${w.pick(TOPICS)}_${sites.length}`);
    const isContainer = w.random() < 0.22;
    const container = join(folder, `${w.pick(TOPICS)}.gpkg`);
    sites.push({ folder, items: Array.from({ length: size }, () => w.make(folder, isContainer ? container : null)) });
    n += size;
  }
  w.sites = sites;
  confuse(w);
  if (w.keepsCopies) keepCopies(w);
  writeProject(w);
  writeMaps(w);
  return { places: w.places, root: w.root };
}

/** Decoys, twins, near twins, editions, generalised editions, and equal shapes with another table. */
function confuse(w: World): void {
  for (const item of [...w.items]) {
    const { content, name } = item;
    const beside = (sub: string, c: Content): Item =>
      w.make(join(w.root, 'stock', `${sub}_${w.whole(0, 5)}`), null, c, name, w.random() < 0.8 ? item.format : undefined);
    const dice = w.random();
    if (dice < 0.06) beside('decoys', w.newContent());
    else if (dice < 0.09) beside('backup', content);
    else if (dice < 0.13) beside('edited', withOneEdit(content));
    else if (dice < 0.18) beside('edition', edition(content, w.random));
    else if (dice < 0.22 && content.shape !== 'point') beside('general', generalised(content));
    else if (dice < 0.25) beside('tables', otherTable(content));
  }
}

/** The project file, with its link. */
export function writeProject(w: World): void {
  mkdirSync(w.root, { recursive: true });
  const address = `file://harbour/gis/${w.link.slice(join(w.folder, 'share').length + 1)}`;
  writeFileSync(
    join(w.root, 'study.rootmap.json'),
    JSON.stringify({
      format: 'rootmap-project/1',
      id: 'study',
      name: 'study',
      title: 'Study',
      links: [{ name: 'base', path: null, address }],
    }),
  );
}

/** As a person's map records it: relative within a place, by drive or share name else. */
function recorded(w: World, map: string, path: string): string {
  const [file, table] = path.split('#') as [string, string | undefined];
  const place = w.places.find((p) => file.startsWith(`${p.folder}/`))!;
  const fragment = table === undefined ? '' : `#${encodeURIComponent(table)}`;
  if (place.name === 'desk' && w.random() < 0.75) {
    const [a, b] = [dirname(map).split('/'), file.split('/')];
    let n = 0;
    while (n < a.length && n < b.length - 1 && a[n] === b[n]) n++;
    return [...a.slice(n).map(() => '..'), ...b.slice(n).map(encodeURIComponent)].join('/') + fragment;
  }
  const rest = file
    .slice(place.folder.length + 1)
    .split('/')
    .map(encodeURIComponent)
    .join('/');
  return (place.name === 'share' ? `file://harbour/gis/${rest}` : `file:///${place.driveNames[0]!}/${rest}`) + fragment;
}

function writeMaps(w: World): void {
  const own = w.sites.flatMap((s) => s.items);
  for (let from = 0, m = 0; from < own.length; m++) {
    const path = join(w.root, 'maps', `map_${m}.owc.json`);
    const some = own.slice(from, (from += w.whole(8, 20)));
    const again = m > 0 ? Array.from({ length: 2 }, () => w.pick(own)) : [];
    const layers = [...new Set([...some, ...again])].map((item, i): LayerMade => {
      return { id: `l${i}`, item, href: recorded(w, path, item.path!), resolved: item.path! };
    });
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, JSON.stringify(mapTextOf(`Map ${m}`, layers), null, 2));
    w.maps.push({ path, layers, isMoved: false });
  }
}

export interface MapText {
  readonly features: readonly { readonly properties: { readonly offerings: { contents: unknown[] }[] } }[];
}
function mapTextOf(title: string, layers: readonly LayerMade[]): object {
  return {
    type: 'FeatureCollection',
    id: title,
    properties: { title, lang: 'en', updated: '2026-01-05T00:00:00Z' },
    features: layers.map(({ id, href, item }) => ({
      type: 'Feature',
      id,
      geometry: null,
      properties: {
        title: item.name,
        updated: '2026-01-05T00:00:00Z',
        offerings: [
          {
            code: `urn:x-rootmap:offering:${item.format === 'table' ? 'geopackage' : item.format}`,
            contents: [{ type: 'application/octet-stream', href }],
          },
        ],
      },
    })),
  };
}
