import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { dropTable, putGeojson, putShapefile, putTables, SHAPEFILE_ENDINGS, type Content, type Shape } from '../plain-data.js';

// The state of a world, and what can be done to one thing of it: nothing here or beside it uses the app's own code.

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
  'damaged, a copy is left',
  'companion lost, a copy is left',
  'place absent, copies are left',
  'still packed',
  'gone',
] as const;
export type Damage = (typeof DAMAGES)[number] | 'map moved' | 'root moved' | 'no recorded source';

/** A dataset, wherever it stands now. */
export interface Item {
  name: string;
  readonly format: 'shapefile' | 'geojson' | 'table';
  readonly content: Content;
  /** Path of the file, `#table` behind it for a table; null: it is gone. */
  path: string | null;
  /** The archive that it was put into, where it was. */
  archive?: string;
  damage: Damage | null;
}
export interface Site {
  folder: string;
  readonly items: readonly Item[];
}
export interface LayerMade {
  readonly id: string;
  readonly item: Item;
  /** Null: somebody took it out. */
  href: string | null;
  readonly resolved: string;
}
export interface MapMade {
  path: string;
  readonly layers: readonly LayerMade[];
  isMoved: boolean;
}

export interface Case {
  readonly map: string;
  readonly layer: string;
  readonly damage: Damage;
  /** Where its data is now, or the archive that it is packed in; null: nowhere in reach. */
  readonly truth: string | null;
  /** What else says the same, wherever it stands. */
  readonly twins: readonly string[];
  /** In reach, and nothing else in reach says the same. */
  readonly canBeTold: boolean;
  /** The file or folder that was recorded is on its disk still, the same one, wherever it was moved: who saw it there can tell. */
  readonly isSameObject: boolean;
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
export const TOPICS = 'coast survey harbour nature roads water relief soil sites borders fishing tide'.split(' ');
const FIELDS = ['depth', 'cover', 'class', 'owner', 'height', 'state', 'length', 'year', 'grade', 'note'];

/** What there is, where it stands, and what recorded it. */
export class World {
  readonly random: () => number;
  readonly items: Item[] = [];
  readonly maps: MapMade[] = [];
  root: string;
  readonly places: DamagedWorld['places'][number][];
  sites: readonly Site[] = [];
  /** Files that stand where data was, and are no data any longer. */
  readonly ruins: string[] = [];
  isStickAway = false;
  stickDrive = 'E:';
  link: string;
  private made = 0;

  constructor(
    readonly folder: string,
    seed: number,
    readonly datasets: number,
    /** Downloads, backups and originals are kept beside the data. */
    readonly keepsCopies = false,
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

  pick<T>(all: readonly T[]): T {
    return all[Math.floor(this.random() * all.length)]!;
  }
  whole(from: number, to: number): number {
    return from + Math.floor(this.random() * (to - from + 1));
  }

  newContent(): Content {
    const shape = this.pick<Shape>(['point', 'line', 'area']);
    const corner = [this.whole(300_000, 690_000), this.whole(4_500_000, 5_400_000)] as const;
    const size = this.whole(2_000, 20_000);
    const names = ['id', ...new Set(Array.from({ length: this.whole(1, 4) }, () => this.pick(FIELDS)))];
    const fields = names.map((name) => [name, name === 'id' || this.random() < 0.4 ? 'whole' : 'text'] as const);
    const records = Array.from({ length: this.whole(5, 30) }, (_, i) => {
      const [x, y] = [corner[0] + this.whole(0, size), corner[1] + this.whole(0, size)];
      const ring = Array.from({ length: this.whole(4, 9) }, (_v, k) => [x + k * 11 + this.whole(0, 9), y + this.whole(0, 400)] as const);
      const low = [[x + ring.length * 12, y - 40] as const, [x, y - 40] as const];
      const at = shape === 'point' ? [[x, y] as const] : shape === 'line' ? ring : [...ring, ...low, ring[0]!];
      return { at, values: fields.map(([, type], f) => (f === 0 ? i : type === 'whole' ? this.whole(0, 99) : this.pick(WORDS))) };
    });
    return { shape, fields, records };
  }

  newName(): string {
    this.made++;
    const accent = this.random() < 0.15 ? 'é' : '';
    return `${this.pick(WORDS)}_${this.pick(TOPICS)}${accent}${this.random() < 0.5 ? `_${this.made}` : `_${this.pick(WORDS)}${this.made}`}`;
  }

  make(folder: string, container: string | null, content = this.newContent(), name = this.newName(), like?: Item['format']): Item {
    const format = container ? 'table' : like && like !== 'table' ? like : this.random() < 0.8 ? 'shapefile' : 'geojson';
    const item: Item = { name, format, content, damage: null, path: null };
    this.put(item, container ?? folder);
    this.items.push(item);
    return item;
  }

  put(item: Item, where: string): void {
    const { name, format, content } = item;
    if (format === 'table') putTables(where, [{ name: tableName(name), content }]);
    else if (format === 'shapefile') putShapefile(join(where, `${name}.shp`), content);
    else putGeojson(join(where, `${name}.geojson`), content);
    item.path = format === 'table' ? `${where}#${tableName(name)}` : join(where, `${name}.${format === 'shapefile' ? 'shp' : 'geojson'}`);
  }

  move(from: string, to: string): void {
    mkdirSync(dirname(to), { recursive: true });
    renameSync(from, to);
  }
  /** Everything below a folder goes along. */
  moveFolder(from: string, to: string): void {
    this.move(from, to);
    for (const i of this.items) {
      if (i.path?.startsWith(`${from}/`)) i.path = to + i.path.slice(from.length);
      if (i.archive?.startsWith(`${from}/`)) i.archive = to + i.archive.slice(from.length);
    }
  }
  moveRoot(to: string): void {
    const from = this.root;
    this.moveFolder(from, to);
    for (const m of this.maps) m.path = to + m.path.slice(from.length);
    this.root = to;
  }
  moveItem(item: Item, to: string): void {
    const from = item.path!;
    if (item.format === 'shapefile')
      for (const ending of SHAPEFILE_ENDINGS) this.move(`${from.slice(0, -3)}${ending}`, `${to.slice(0, -3)}${ending}`);
    else this.move(from, to);
    item.path = to;
  }
  removeItem(item: Item): void {
    const from = item.path!;
    const [file, table] = from.split('#') as [string, string | undefined];
    if (table !== undefined) dropTable(file, table);
    else if (item.format === 'shapefile') for (const ending of SHAPEFILE_ENDINGS) rmSync(`${from.slice(0, -3)}${ending}`);
    else rmSync(from);
    item.path = null;
  }
}

export const tableName = (name: string): string =>
  name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_');
