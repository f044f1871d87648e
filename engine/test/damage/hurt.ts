import { existsSync, mkdirSync, readFileSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { dropTable, putTables, renameTable, SHAPEFILE_ENDINGS } from '../plain-data.js';
import { writeZip } from '../small-zip.js';
import { writeProject } from './build.js';
import { tableName, TOPICS, type Damage, type Item, type Site, type World } from './world.js';

/** False: this kind does not fit that site. */
export function hurt(w: World, site: Site, damage: Damage): boolean {
  const items = site.items.filter((i) => i.damage === null && i.path !== null);
  const isTables = items.every((i) => i.format === 'table');
  const isFiles = items.every((i) => i.format !== 'table');
  const place = w.places.find((p) => site.folder.startsWith(`${p.folder}/`))!;
  if (place.name === 'stick' && w.isStickAway) return false;
  const inside = (path: string): string =>
    place.name === 'desk' ? join(w.root, path) : place.name === 'share' ? join(w.link, path) : join(place.folder, 'brought', path);
  const last = site.folder.slice(site.folder.lastIndexOf('/') + 1);
  const mark = (): true => (items.forEach((i) => (i.damage = damage)), true);
  const renameAll = (name: (i: Item) => string, folder = site.folder): true => {
    for (const i of items) {
      i.name = name(i);
      w.moveItem(i, join(folder, i.name + i.path!.slice(i.path!.lastIndexOf('.'))));
    }
    return mark();
  };
  switch (damage) {
    case 'folder moved':
      w.moveFolder(site.folder, inside(join('archive', String(w.whole(2020, 2026)), last)));
      return mark();
    case 'folder renamed':
      w.moveFolder(site.folder, join(dirname(site.folder), `${w.pick(TOPICS)} ${last.replace(/\D/g, '')} final`));
      return mark();
    case 'split over folders':
      if (!isFiles || items.length < 4) return false;
      items.forEach((i, n) => w.moveItem(i, inside(join(`part ${n % 3} of ${last}`, i.path!.slice(i.path!.lastIndexOf('/') + 1)))));
      return mark();
    case 'dataset renamed':
      return isFiles && renameAll(() => w.newName());
    case 'copy suffix':
      return isFiles && renameAll((i) => i.name + w.pick(['_v2', '-copy', ' (1)', '_final']));
    case 'renamed and moved':
      return isFiles && renameAll(() => w.newName(), inside(join('sorted', last)));
    case 'spelling':
      return isFiles && renameAll((i) => w.pick([(s: string) => s.toUpperCase(), (s: string) => s.replaceAll('_', ' ')])(i.name));
    case 'accents composed otherwise': {
      const accented = items.filter((i) => i.format !== 'table' && i.name.includes('é'));
      for (const i of accented) {
        i.damage = damage;
        i.name = i.name.normalize('NFD');
        w.moveItem(i, join(site.folder, i.name + i.path!.slice(i.path!.lastIndexOf('.'))));
      }
      return accented.length > 0;
    }
    case 'put into a geodatabase': {
      if (!items.every((i) => i.format === 'shapefile') || place.name === 'stick') return false;
      const to = inside(join('geodatabases', `${last}.gpkg`));
      for (const i of items) {
        w.removeItem(i);
        putTables(to, [{ name: tableName(i.name), content: i.content }]);
        i.path = `${to}#${tableName(i.name)}`;
      }
      return mark();
    }
    case 'table renamed':
      if (!isTables) return false;
      for (const i of items) {
        const [file, table] = i.path!.split('#') as [string, string];
        i.name = w.newName();
        renameTable(file, table, tableName(i.name));
        i.path = `${file}#${tableName(i.name)}`;
      }
      return mark();
    case 'geodatabase moved': {
      if (!isTables) return false;
      const file = items[0]!.path!.split('#')[0]!;
      const to = inside(join('geodatabases', `${last} all.gpkg`));
      w.move(file, to);
      for (const i of items) i.path = i.path!.replace(file, to);
      return mark();
    }
    case 'table in another geodatabase':
      if (!isTables || place.name !== 'desk') return false;
      for (const i of items) {
        const [file, table] = i.path!.split('#') as [string, string];
        const to = join(w.root, 'geodatabases', 'working.gpkg');
        dropTable(file, table);
        putTables(to, [{ name: table, content: i.content }]);
        i.path = `${to}#${table}`;
      }
      return mark();
    case 'other data of the same name': {
      if (!isFiles) return false;
      for (const i of items) {
        const was = i.path!;
        w.moveItem(i, inside(join('older', last, was.slice(was.lastIndexOf('/') + 1))));
        const shape = i.content.shape === 'point' ? 'area' : 'point';
        let other = w.newContent();
        while (other.shape !== shape) other = w.newContent();
        const impostor: Item = { name: i.name, format: i.format, content: other, path: null, damage };
        w.put(impostor, site.folder);
        w.items.push(impostor);
      }
      return mark();
    }
    case 'drive renamed':
      if (place.name !== 'stick') return false;
      w.stickDrive = 'F:';
      return mark();
    case 'link elsewhere': {
      if (place.name !== 'share' || !existsSync(w.link) || w.link.endsWith('2026')) return false;
      const to = join(w.folder, 'share', 'common', 'base 2026');
      w.moveFolder(w.link, to);
      for (const s of w.sites) if (s.folder.startsWith(`${w.link}/`)) s.folder = to + s.folder.slice(w.link.length);
      w.link = to;
      writeProject(w);
      return mark();
    }
    case 'damaged, a copy is left':
    case 'companion lost, a copy is left':
      if (!items.every((i) => i.format === 'shapefile' || (i.format === 'geojson' && damage === 'damaged, a copy is left'))) return false;
      for (const i of items) {
        const ruin = i.path!;
        w.put(i, inside(join('backup', last)));
        w.ruins.push(ruin);
        if (damage === 'companion lost, a copy is left') rmSync(ruin.replace(/shp$/, 'dbf'));
        else truncateSync(ruin, Math.floor(statSync(ruin).size * 0.6));
      }
      return mark();
    case 'place absent, copies are left':
      if (place.name !== 'stick' || w.stickDrive !== 'E:' || w.items.some((i) => i.damage && i.path?.startsWith(`${place.folder}/`)))
        return false;
      for (const s of w.sites.filter((other) => other.folder.startsWith(`${place.folder}/`)))
        for (const i of s.items) {
          if (i.damage !== null || i.format === 'table') continue;
          w.put(i, join(w.root, 'copies', s.folder.slice(s.folder.lastIndexOf('/') + 1)));
          i.damage = damage;
        }
      w.isStickAway = true;
      return true;
    case 'still packed': {
      if (!isFiles) return false;
      const archive = inside(join('packed', `${last}.zip`));
      const files = items.flatMap((i) =>
        i.format === 'shapefile' ? SHAPEFILE_ENDINGS.map((e) => `${i.path!.slice(0, -3)}${e}`) : [i.path!],
      );
      mkdirSync(dirname(archive), { recursive: true });
      writeFileSync(archive, writeZip(Object.fromEntries(files.map((f) => [f.slice(f.lastIndexOf('/') + 1), readFileSync(f)]))));
      for (const i of items) {
        w.removeItem(i);
        i.archive = archive;
      }
      return mark();
    }
    case 'gone':
      items.forEach((i) => w.removeItem(i));
      return mark();
    default:
      return false;
  }
}
