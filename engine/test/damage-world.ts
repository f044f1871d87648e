import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import {
  boxOf,
  dropTable,
  putGeojson,
  putShapefile,
  putTables,
  renameTable,
  SHAPEFILE_ENDINGS,
  type Content,
  type Shape,
} from './plain-data.js';

// Projects whose data is damaged in known ways, and the truth of where everything went. It is decided here, before anything
// of the app looks at it, and with nothing of the app's own code.

/** A fixed sequence of numbers from 0 to 1: L'Ecuyer (1999), multiplier for modulus 2^31 - 1. */
function seeded(seed: number): () => number {
  let state = (seed * 7919) % 2147483647 || 1;
  return () => (state = (state * 48271) % 2147483647) / 2147483647;
}

export const DAMAGES = [
  'folder moved',
  'folder renamed',
  'split over folders',
  'dataset renamed',
  'copy suffix',
  'renamed and moved',
  'spelling',
  'accents composed otherwise',
  'put into a geodatabase',
  'table renamed',
  'geodatabase moved',
  'table in another geodatabase',
  'other data of the same name',
  'drive renamed',
  'link elsewhere',
  'gone',
] as const;
export type Damage = (typeof DAMAGES)[number] | 'map moved' | 'root moved' | 'no recorded source';

/** A dataset, wherever it stands now. */
interface Item {
  name: string;
  readonly format: 'shapefile' | 'geojson' | 'table';
  readonly content: Content;
  /** Path of the file, `#table` behind it for a table; null: it is gone. */
  path: string | null;
  damage: Damage | null;
}
interface Site {
  folder: string;
  readonly items: readonly Item[];
}
interface LayerMade {
  readonly id: string;
  readonly item: Item;
  /** Null: somebody took it out. */
  href: string | null;
  readonly resolved: string;
}
interface MapMade {
  path: string;
  readonly layers: readonly LayerMade[];
  isMoved: boolean;
}

export interface Case {
  readonly map: string;
  readonly layer: string;
  readonly damage: Damage;
  /** Where its data is now; null: nowhere in reach. */
  readonly truth: string | null;
  /** In reach, and nothing else in reach says the same. */
  readonly canBeTold: boolean;
  /** Its name is as it was, and nothing else in reach is called so. */
  readonly isNamed: boolean;
}
export interface DamagedWorld {
  readonly places: readonly { readonly name: string; readonly folder: string; readonly driveNames: readonly string[] }[];
  readonly root: string;
  readonly datasets: number;
  readonly cases: readonly Case[];
}

const WORDS = 'beds banks wrecks cables buoys sills tracks plots soundings shoals reefs lagoons inlets quays piers pools'.split(' ');
const TOPICS = 'coast survey harbour nature roads water relief soil sites borders fishing tide'.split(' ');
const FIELDS = ['depth', 'cover', 'class', 'owner', 'height', 'state', 'length', 'year', 'grade', 'note'];

export class DamageMaker {
  private readonly random: () => number;
  private readonly items: Item[] = [];
  private readonly maps: MapMade[] = [];
  private root: string;
  private readonly places: DamagedWorld['places'][number][];
  private stickDrive = 'E:';
  private link: string;
  private made = 0;

  constructor(
    private readonly folder: string,
    seed: number,
    private readonly datasets: number,
  ) {
    this.random = seeded(seed);
    this.places = ['desk', 'share', 'stick'].map((name) => ({
      name,
      folder: join(folder, name),
      driveNames: [{ desk: 'D:', share: '\\\\harbour\\gis', stick: 'E:' }[name]!],
    }));
    for (const p of this.places) mkdirSync(p.folder, { recursive: true });
    this.root = join(folder, 'desk', 'gis', 'study');
    this.link = join(folder, 'share', 'base');
  }

  private pick<T>(all: readonly T[]): T {
    return all[Math.floor(this.random() * all.length)]!;
  }
  private whole(from: number, to: number): number {
    return from + Math.floor(this.random() * (to - from + 1));
  }

  // What there is

  /** Writes the project. Between this and `damage` its maps may be told to remember their data. */
  build(): { places: DamagedWorld['places']; root: string } {
    const sites: Site[] = [];
    let n = 0;
    while (n < this.datasets) {
      const size = Math.min(this.whole(3, 8), this.datasets - n);
      const where = this.random();
      const base = where < 0.76 ? join(this.root, 'received') : where < 0.88 ? this.link : join(this.folder, 'stick', 'brought');
      const folder = join(base, `${this.pick(TOPICS)}_${sites.length}`);
      const isContainer = this.random() < 0.22;
      const container = join(folder, `${this.pick(TOPICS)}.gpkg`);
      sites.push({ folder, items: Array.from({ length: size }, () => this.make(folder, isContainer ? container : null)) });
      n += size;
    }
    this.sites = sites;
    this.confuse();
    this.writeProject();
    this.writeMaps();
    return { places: this.places, root: this.root };
  }
  private sites: readonly Site[] = [];

  private newContent(): Content {
    const shape = this.pick<Shape>(['point', 'line', 'area']);
    const corner = [this.whole(300_000, 690_000), this.whole(4_500_000, 5_400_000)] as const;
    const size = this.whole(2_000, 20_000);
    const names = ['id', ...new Set(Array.from({ length: this.whole(1, 4) }, () => this.pick(FIELDS)))];
    const fields = names.map((name) => [name, name === 'id' || this.random() < 0.4 ? 'whole' : 'text'] as const);
    const records = Array.from({ length: this.whole(5, 30) }, (_, i) => {
      const [x, y] = [corner[0] + this.whole(0, size), corner[1] + this.whole(0, size)];
      const ring = Array.from({ length: this.whole(4, 9) }, (_v, k, ) => [x + k * 11 + this.whole(0, 9), y + this.whole(0, 400)] as const); // prettier-ignore
      const low = [[x + ring.length * 12, y - 40] as const, [x, y - 40] as const];
      const at = shape === 'point' ? [[x, y] as const] : shape === 'line' ? ring : [...ring, ...low, ring[0]!];
      return { at, values: fields.map(([, type], f) => (f === 0 ? i : type === 'whole' ? this.whole(0, 99) : this.pick(WORDS))) };
    });
    return { shape, fields, records };
  }

  private newName(): string {
    this.made++;
    const accent = this.random() < 0.15 ? 'é' : '';
    return `${this.pick(WORDS)}_${this.pick(TOPICS)}${accent}${this.random() < 0.5 ? `_${this.made}` : `_${this.pick(WORDS)}${this.made}`}`;
  }

  private make(folder: string, container: string | null, content = this.newContent(), name = this.newName(), like?: Item['format']): Item {
    const format = container ? 'table' : like && like !== 'table' ? like : this.random() < 0.8 ? 'shapefile' : 'geojson';
    const item: Item = { name, format, content, damage: null, path: null };
    this.put(item, container ?? folder);
    this.items.push(item);
    return item;
  }

  private put(item: Item, where: string): void {
    const { name, format, content } = item;
    if (format === 'table') putTables(where, [{ name: tableName(name), content }]);
    else if (format === 'shapefile') putShapefile(join(where, `${name}.shp`), content);
    else putGeojson(join(where, `${name}.geojson`), content);
    item.path = format === 'table' ? `${where}#${tableName(name)}` : join(where, `${name}.${format === 'shapefile' ? 'shp' : 'geojson'}`);
  }

  /** Decoys, twins, near twins, editions, generalised editions, and equal shapes with another table. */
  private confuse(): void {
    for (const item of [...this.items]) {
      const { content, name } = item;
      const beside = (sub: string, c: Content): Item =>
        this.make(join(this.root, 'stock', `${sub}_${this.whole(0, 5)}`), null, c, name, this.random() < 0.8 ? item.format : undefined);
      const dice = this.random();
      if (dice < 0.06) beside('decoys', this.newContent());
      else if (dice < 0.09) beside('backup', content);
      else if (dice < 0.13) beside('edited', withOneEdit(content));
      else if (dice < 0.18) beside('edition', edition(content, this.random));
      else if (dice < 0.22 && content.shape !== 'point') beside('general', generalised(content));
      else if (dice < 0.25) beside('tables', otherTable(content));
    }
  }

  private writeProject(): void {
    mkdirSync(this.root, { recursive: true });
    const address = `file://harbour/gis/${this.link.slice(join(this.folder, 'share').length + 1)}`;
    writeFileSync(
      join(this.root, 'study.rootmap.json'),
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
  private recorded(map: string, path: string): string {
    const [file, table] = path.split('#') as [string, string | undefined];
    const place = this.places.find((p) => file.startsWith(`${p.folder}/`))!;
    const fragment = table === undefined ? '' : `#${encodeURIComponent(table)}`;
    if (place.name === 'desk' && this.random() < 0.75) {
      const [a, b] = [dirname(map).split('/'), file.split('/')];
      let n = 0;
      while (n < a.length && n < b.length - 1 && a[n] === b[n]) n++;
      return [...a.slice(n).map(() => '..'), ...b.slice(n).map(encodeURIComponent)].join('/') + fragment;
    }
    const rest = file.slice(place.folder.length + 1).split('/').map(encodeURIComponent).join('/'); // prettier-ignore
    return (place.name === 'share' ? `file://harbour/gis/${rest}` : `file:///${place.driveNames[0]!}/${rest}`) + fragment;
  }

  private writeMaps(): void {
    const own = this.sites.flatMap((s) => s.items);
    for (let from = 0, m = 0; from < own.length; m++) {
      const path = join(this.root, 'maps', `map_${m}.owc.json`);
      const some = own.slice(from, (from += this.whole(8, 20)));
      const again = m > 0 ? Array.from({ length: 2 }, () => this.pick(own)) : [];
      const layers = [...new Set([...some, ...again])].map((item, i): LayerMade => {
        return { id: `l${i}`, item, href: this.recorded(path, item.path!), resolved: item.path! };
      });
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, JSON.stringify(mapTextOf(`Map ${m}`, layers), null, 2));
      this.maps.push({ path, layers, isMoved: false });
    }
  }

  // What happens to it

  /** Damages most sites, some maps, and the root; then says what is true. */
  damage(): DamagedWorld {
    const kinds = [...DAMAGES].sort(() => this.random() - 0.5);
    let next = 0;
    for (const site of this.sites) {
      if (this.random() < 0.2) continue;
      for (let tries = 0; tries < kinds.length; tries++) if (this.hurt(site, kinds[next++ % kinds.length]!)) break;
    }
    for (const map of this.maps) {
      this.takeSourcesOut(map);
      if (this.random() < 0.15) {
        const to = join(this.root, 'maps', 'sent', 'to partners', map.path.slice(map.path.lastIndexOf('/') + 1));
        this.move(map.path, to);
        map.isMoved = true;
        map.path = to;
      }
    }
    if (this.random() < 0.4) this.moveRoot(join(this.folder, 'desk', 'gis', 'study 2026'));
    this.places[2] = { ...this.places[2]!, driveNames: [this.stickDrive] };
    return { places: this.places, root: this.root, datasets: this.items.filter((i) => i.path !== null).length, cases: this.truth() };
  }

  private takeSourcesOut(map: MapMade): void {
    const text = JSON.parse(readFileSync(map.path, 'utf8')) as MapText;
    map.layers.forEach((layer, i) => {
      if (this.random() >= 0.02) return;
      layer.href = null;
      text.features[i]!.properties.offerings[0]!.contents = [];
    });
    writeFileSync(map.path, JSON.stringify(text, null, 2));
  }
  private move(from: string, to: string): void {
    mkdirSync(dirname(to), { recursive: true });
    renameSync(from, to);
  }
  /** Everything below a folder goes along. */
  private moveFolder(from: string, to: string): void {
    this.move(from, to);
    for (const i of this.items) if (i.path?.startsWith(`${from}/`)) i.path = to + i.path.slice(from.length);
  }
  private moveRoot(to: string): void {
    const from = this.root;
    this.moveFolder(from, to);
    for (const m of this.maps) m.path = to + m.path.slice(from.length);
    this.root = to;
  }
  private moveItem(item: Item, to: string): void {
    const from = item.path!;
    if (item.format === 'shapefile')
      for (const ending of SHAPEFILE_ENDINGS) this.move(`${from.slice(0, -3)}${ending}`, `${to.slice(0, -3)}${ending}`);
    else this.move(from, to);
    item.path = to;
  }
  private removeItem(item: Item): void {
    const from = item.path!;
    const [file, table] = from.split('#') as [string, string | undefined];
    if (table !== undefined) dropTable(file, table);
    else if (item.format === 'shapefile') for (const ending of SHAPEFILE_ENDINGS) rmSync(`${from.slice(0, -3)}${ending}`);
    else rmSync(from);
    item.path = null;
  }

  /** False: this kind does not fit that site. */
  private hurt(site: Site, damage: Damage): boolean {
    const items = site.items.filter((i) => i.damage === null && i.path !== null);
    const isTables = items.every((i) => i.format === 'table');
    const isFiles = items.every((i) => i.format !== 'table');
    const place = this.places.find((p) => site.folder.startsWith(`${p.folder}/`))!;
    const inside = (path: string): string => (place.name === 'desk' ? join(this.root, path) : place.name === 'share' ? join(this.link, path) : join(place.folder, 'brought', path)); // prettier-ignore
    const last = site.folder.slice(site.folder.lastIndexOf('/') + 1);
    const mark = (): true => (items.forEach((i) => (i.damage = damage)), true);
    const renameAll = (name: (i: Item) => string, folder = site.folder): true => {
      for (const i of items) {
        i.name = name(i);
        this.moveItem(i, join(folder, i.name + i.path!.slice(i.path!.lastIndexOf('.'))));
      }
      return mark();
    };
    switch (damage) {
      case 'folder moved':
        this.moveFolder(site.folder, inside(join('archive', String(this.whole(2020, 2026)), last)));
        return mark();
      case 'folder renamed':
        this.moveFolder(site.folder, join(dirname(site.folder), `${this.pick(TOPICS)} ${last.replace(/\D/g, '')} final`));
        return mark();
      case 'split over folders':
        if (!isFiles || items.length < 4) return false;
        items.forEach((i, n) => this.moveItem(i, inside(join(`part ${n % 3} of ${last}`, i.path!.slice(i.path!.lastIndexOf('/') + 1)))));
        return mark();
      case 'dataset renamed':
        return isFiles && renameAll(() => this.newName());
      case 'copy suffix':
        return isFiles && renameAll((i) => i.name + this.pick(['_v2', '-copy', ' (1)', '_final']));
      case 'renamed and moved':
        return isFiles && renameAll(() => this.newName(), inside(join('sorted', last)));
      case 'spelling':
        return isFiles && renameAll((i) => this.pick([(s: string) => s.toUpperCase(), (s: string) => s.replaceAll('_', ' ')])(i.name));
      case 'accents composed otherwise': {
        const accented = items.filter((i) => i.format !== 'table' && i.name.includes('é'));
        for (const i of accented) {
          i.damage = damage;
          i.name = i.name.normalize('NFD');
          this.moveItem(i, join(site.folder, i.name + i.path!.slice(i.path!.lastIndexOf('.'))));
        }
        return accented.length > 0;
      }
      case 'put into a geodatabase': {
        if (!items.every((i) => i.format === 'shapefile') || place.name === 'stick') return false;
        const to = inside(join('geodatabases', `${last}.gpkg`));
        for (const i of items) {
          this.removeItem(i);
          putTables(to, [{ name: tableName(i.name), content: i.content }]);
          i.path = `${to}#${tableName(i.name)}`;
        }
        return mark();
      }
      case 'table renamed':
        if (!isTables) return false;
        for (const i of items) {
          const [file, table] = i.path!.split('#') as [string, string];
          i.name = this.newName();
          renameTable(file, table, tableName(i.name));
          i.path = `${file}#${tableName(i.name)}`;
        }
        return mark();
      case 'geodatabase moved': {
        if (!isTables) return false;
        const file = items[0]!.path!.split('#')[0]!;
        const to = inside(join('geodatabases', `${last} all.gpkg`));
        this.move(file, to);
        for (const i of items) i.path = i.path!.replace(file, to);
        return mark();
      }
      case 'table in another geodatabase':
        if (!isTables || place.name !== 'desk') return false;
        for (const i of items) {
          const [file, table] = i.path!.split('#') as [string, string];
          const to = join(this.root, 'geodatabases', 'working.gpkg');
          dropTable(file, table);
          putTables(to, [{ name: table, content: i.content }]);
          i.path = `${to}#${table}`;
        }
        return mark();
      case 'other data of the same name': {
        if (!isFiles) return false;
        for (const i of items) {
          const was = i.path!;
          this.moveItem(i, inside(join('older', last, was.slice(was.lastIndexOf('/') + 1))));
          const shape = i.content.shape === 'point' ? 'area' : 'point';
          let other = this.newContent();
          while (other.shape !== shape) other = this.newContent();
          const impostor: Item = { name: i.name, format: i.format, content: other, path: null, damage };
          this.put(impostor, site.folder);
          this.items.push(impostor);
        }
        return mark();
      }
      case 'drive renamed':
        if (place.name !== 'stick') return false;
        this.stickDrive = 'F:';
        return mark();
      case 'link elsewhere': {
        if (place.name !== 'share' || !existsSync(this.link) || this.link.endsWith('2026')) return false;
        const to = join(this.folder, 'share', 'common', 'base 2026');
        this.moveFolder(this.link, to);
        for (const s of this.sites) if (s.folder.startsWith(`${this.link}/`)) s.folder = to + s.folder.slice(this.link.length);
        this.link = to;
        this.writeProject();
        return mark();
      }
      case 'gone':
        items.forEach((i) => this.removeItem(i));
        return mark();
      default:
        return false;
    }
  }

  // What is true

  private truth(): Case[] {
    const standing = this.items.filter((i) => i.path !== null);
    const says = new Map<string, number>();
    const called = new Map<string, number>();
    const count = (map: Map<string, number>, key: string): void => void map.set(key, (map.get(key) ?? 0) + 1);
    const saying = (i: Item, isAnyFormat: boolean): string => (isAnyFormat ? 'any' : i.format) + JSON.stringify(i.content);
    for (const i of standing) {
      count(says, saying(i, true));
      count(says, saying(i, false));
      count(called, plainName(i.path!));
    }
    return this.maps.flatMap((map) =>
      map.layers.flatMap(({ id, item, href, resolved }): Case[] => {
        const reached = href === null ? null : this.reached(map.path, href);
        if (reached !== null && reached === item.path) return [];
        const damage: Damage =
          href === null ? 'no recorded source' : (item.damage ?? (map.isMoved && !href.startsWith('file:') ? 'map moved' : 'root moved'));
        // Of what is gone, one equal copy that is left is as good as a move: nothing could tell them apart.
        const equal = standing.filter((i) => i.format === item.format && JSON.stringify(i.content) === JSON.stringify(item.content));
        const truth = item.path ?? (equal.length === 1 ? equal[0]!.path : null);
        return [
          {
            map: map.path,
            layer: id,
            damage,
            truth,
            // A copy in another format is told apart by its format, unless the data changed its own.
            // A path that is right but for case and normalisation tells by itself.
            canBeTold: truth !== null && (says.get(saying(item, damage === 'put into a geodatabase')) === 1 || sameName(truth, reached)),
            isNamed: truth !== null && href !== null && plainName(resolved) === plainName(truth) && called.get(plainName(truth)) === 1,
          },
        ];
      }),
    );
  }

  /** What an address leads to, worked out with Node alone. */
  private reached(map: string, href: string): string | null {
    const [path, table] = href.split('#') as [string, string | undefined];
    const behind = table === undefined ? '' : `#${decodeURIComponent(table)}`;
    if (!path.startsWith('file:')) return new URL(path, pathToFileURL(map)).pathname.split('/').map(decodeURIComponent).join('/') + behind;
    const drives: Record<string, string> = { 'file:///D:': 'desk', [`file:///${this.stickDrive}`]: 'stick', 'file://harbour/gis': 'share' };
    const drive = Object.keys(drives).find((d) => path.startsWith(`${d}/`));
    return drive === undefined ? null : join(this.folder, drives[drive]!, decodeURIComponent(path.slice(drive.length + 1))) + behind;
  }
}

const sameName = (a: string, b: string | null): boolean => a.normalize('NFC').toLowerCase() === b?.normalize('NFC').toLowerCase();
const tableName = (name: string): string => name.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase().replace(/[^a-z0-9]+/g, '_'); // prettier-ignore
const plainName = (path: string): string => {
  const end = path.includes('#') ? path.slice(path.lastIndexOf('#') + 1) : path.slice(path.lastIndexOf('/') + 1).replace(/\.\w+$/, '');
  return tableName(end).replaceAll('_', '');
};

interface MapText {
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

/** One value is another one; every shape is as it was. */
function withOneEdit(content: Content): Content {
  const [first, ...rest] = content.records;
  return { ...content, records: [{ ...first!, values: first!.values.map((v) => (typeof v === 'number' ? v + 1 : `${v}x`)) }, ...rest] };
}
/** Of another year: the same schema and nearly the same extent; some records moved a little, some are new. */
function edition(content: Content, random: () => number): Content {
  const box = boxOf(content.records.flatMap((r) => r.at));
  const isEdge = (at: readonly (readonly [number, number])[]): boolean => at.some(([x, y]) => x === box[0] || y === box[1] || x === box[2] || y === box[3]); // prettier-ignore
  const records = content.records.map((r) =>
    isEdge(r.at) || random() < 0.5 ? r : { ...r, at: r.at.map(([x, y]) => [x + 3, y + 2] as const) },
  );
  const inner = records.find((r) => !isEdge(r.at)) ?? records[0]!;
  return { ...content, records: random() < 0.5 ? [...records, inner] : withOneEdit({ ...content, records }).records };
}
/** Fewer vertices, as many records, nearly the same extent. */
function generalised(content: Content): Content {
  const box = boxOf(content.records.flatMap((r) => r.at));
  return {
    ...content,
    records: content.records.map((r) => ({
      ...r,
      at: r.at.filter(([x, y], i) => i % 2 === 0 || i >= r.at.length - 3 || x === box[0] || y === box[1] || x === box[2] || y === box[3]),
    })),
  };
}
const otherTable = (content: Content): Content => ({
  ...content,
  records: content.records.map((r) => ({ ...r, values: r.values.map((v) => (typeof v === 'number' ? v + 7 : `${v}s`)) })),
});
