import { copyFileSync, mkdirSync, writeFileSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { SHAPEFILE_ENDINGS } from '../plain-data.js';
import { writeZip } from '../small-zip.js';
import type { Item, World } from './world.js';

/**
 * What people keep beside the data that their maps use: the download it came from, with its archive; copies for backup; the
 * originals of converted tables. Every copy is registered, so that the truth knows that it says the same.
 */
export function keepCopies(w: World): void {
  for (const site of w.sites) {
    const last = site.folder.slice(site.folder.lastIndexOf('/') + 1);
    const dice = w.random();
    if (dice < 0.25) keepDownload(w, site.items, join(w.folder, 'desk', 'downloads', last));
    else if (dice < 0.45) copyTo(w, site.items, join(w.folder, 'share', 'backup 2025', last));
    else if (dice < 0.6) copyTo(w, site.items, join(w.root, 'backup', last));
    else if (dice < 0.7) copyTo(w, site.items, join(w.root, 'handed over', last));
    else if (site.items.every((i) => i.format === 'table'))
      for (const item of site.items) w.make(join(w.root, 'originals', last), null, item.content, item.name, 'shapefile');
  }
}

function copyTo(w: World, items: readonly Item[], folder: string): Item[] {
  const copies: Item[] = [];
  for (const item of items) {
    const [from, table] = item.path!.split('#') as [string, string | undefined];
    const to = join(folder, from.slice(from.lastIndexOf('/') + 1));
    mkdirSync(dirname(to), { recursive: true });
    if (item.format === 'shapefile') for (const e of SHAPEFILE_ENDINGS) copyFileSync(`${from.slice(0, -3)}${e}`, `${to.slice(0, -3)}${e}`);
    else copyFileSync(from, to);
    copies.push({ ...item, path: table === undefined ? to : `${to}#${table}`, damage: null });
  }
  w.items.push(...copies);
  return copies;
}

function keepDownload(w: World, items: readonly Item[], folder: string): void {
  const files = copyTo(w, items, folder).flatMap(({ path, format }) => {
    const file = path!.replace(/#.*$/s, '');
    return format === 'shapefile' ? SHAPEFILE_ENDINGS.map((e) => `${file.slice(0, -3)}${e}`) : [file];
  });
  const entries = Object.fromEntries(files.map((f) => [f.slice(f.lastIndexOf('/') + 1), readFileSync(f)]));
  writeFileSync(`${folder}.zip`, writeZip(entries));
}
