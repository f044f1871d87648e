import { existsSync, statSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { readWkb, straightWkb, wkbOffset, type Extent } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { readFileSync, renameSync, writeFileSync } from '../disk/files.js';
import { columnsOf, geometryColumnOf, quoteName } from '../geopackage/describe-geopackage.js';
import { needsCopy, openGeopackage, type OpenedGeopackage } from '../geopackage/open-geopackage.js';
import { rtreeOf, type IndexedColumn } from '../geopackage-write/spatial-index.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { rtreeBoxes, type RtreeBoxes } from './rtree-boxes.js';
import { AREA, LINE, POINT, type Drawn, type ShapeStore, type StoredShape, type StoreHead } from './shape-store.js';

/** Which table it is, and the state of its file that it was opened for. */
interface Place {
  readonly path: string;
  readonly table: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}
const NAME = 'container.json';

/**
 * Shapes of a table of a geodatabase where they are: its spatial index tells their boxes, and what is drawn is read from the table. There
 * is nothing to be made first.
 */
export class ContainerStore implements ShapeStore {
  readonly head: StoreHead;
  private readonly blob: Database.Statement<[number], Buffer | null>;
  /** 32-bit floats are up to this far from the true box. */
  private readonly slack: number;

  constructor(
    private readonly opened: OpenedGeopackage,
    private readonly index: RtreeBoxes,
    extent: Extent,
    { table, column, key }: IndexedColumn,
  ) {
    this.head = { count: index.ids.length, extent, lost: 0 };
    this.slack = Math.max(...extent.map(Math.abs)) * 2 ** -22;
    this.blob = opened.db
      .prepare<[number], Buffer | null>(`SELECT ${quoteName(column)} FROM ${quoteName(table)} WHERE ${quoteName(key)} = ?`)
      .pluck(true);
  }

  get boxes(): Float64Array {
    return this.index.boxes;
  }

  get ids(): Float64Array {
    return this.index.ids;
  }

  static isAt(folder: string): boolean {
    return existsSync(join(folder, NAME));
  }

  /** Writes down in `folder` which table it is. Null: the table has no key, or no index that holds all its shapes. */
  static make({ folder: below, dataset }: FoundDataset, folder: string): ContainerStore | null {
    const path = join(below, dataset.group.path);
    if (dataset.group.format !== 'geopackage' || dataset.table === null || needsCopy(path)) return null;
    const store = openStore(path, dataset.table);
    if (!store) return null;
    const { size, mtimeMs } = statSync(path);
    const place: Place = { path, table: dataset.table, bytes: size, modifiedMs: mtimeMs };
    writeFileSync(join(folder, `${NAME}.part`), JSON.stringify(place));
    renameSync(join(folder, `${NAME}.part`), join(folder, NAME));
    return store;
  }

  /** Null: the file is another one by now. */
  static open(folder: string): ContainerStore | null {
    const { path, table, bytes, modifiedMs } = JSON.parse(readFileSync(join(folder, NAME), 'utf8')) as Place;
    const now = statSync(path, { throwIfNoEntry: false });
    return now?.size === bytes && now.mtimeMs === modifiedMs ? openStore(path, table) : null;
  }

  within([minx, miny, maxx, maxy]: Extent): readonly number[] | Uint32Array {
    const { boxes, leaves, leafBoxes } = this.index;
    const [left, bottom, right, top] = [minx - this.slack, miny - this.slack, maxx + this.slack, maxy + this.slack];
    const meets = (b: Float64Array, i: number): boolean => b[i]! <= right && b[i + 2]! >= left && b[i + 1]! <= top && b[i + 3]! >= bottom;
    const found: number[] = [];
    for (let leaf = 0; leaf + 1 < leaves.length; leaf++) {
      if (!meets(leafBoxes, leaf * 4)) continue;
      for (let n = leaves[leaf]!; n < leaves[leaf + 1]!; n++) if (meets(boxes, n * 4)) found.push(n);
    }
    return found;
  }

  near(extent: Extent): readonly number[] | Uint32Array {
    return this.within(extent);
  }

  shape(n: number): StoredShape {
    const id = this.index.ids[n]!;
    const blob = this.blob.get(id);
    const from = blob ? wkbOffset(blob) : null;
    const wkb = blob && from !== null ? straightWkb(blob.subarray(from)) : null;
    const runs: number[][] = [];
    let kind: Drawn = POINT;
    if (wkb)
      readWkb(wkb, {
        geometry: (code) => {
          if (code === 3) kind = AREA;
          else if (code === 2 && kind === POINT) kind = LINE;
        },
        run: () => runs.push([]),
        vertex: (x, y) => runs.at(-1)!.push(x, y),
      });
    return { id, kind, runs: runs.map((run) => Float64Array.from(run)) };
  }

  close(): void {
    this.opened.close();
  }
}

/** Pages of each database that are held: a map has many open at a time, and its process is replaced when it holds too much. */
const CACHE_KIB = 1024;

function openStore(path: string, table: string): ContainerStore | null {
  const opened = openGeopackage(path);
  opened.db.pragma(`cache_size = -${CACHE_KIB}`);
  const store = storeOf(opened, table);
  if (!store) opened.close();
  return store;
}

function storeOf(opened: OpenedGeopackage, table: string): ContainerStore | null {
  const { db } = opened;
  const column = geometryColumnOf(db, table);
  const keys = columnsOf(db, table).filter((c) => c.pk > 0n);
  if (!column || keys.length !== 1) return null;
  const rtree = rtreeOf(table, column.column_name);
  if (!db.prepare('SELECT 1 FROM sqlite_master WHERE name = ?').get(`${rtree}_node`)) return null;
  const index = rtreeBoxes(db, rtree);
  const geom = quoteName(column.column_name);
  // An index that others let go stale is not drawn from.
  const filled = db
    .prepare(`SELECT count(*) FROM ${quoteName(table)} WHERE ${geom} IS NOT NULL`)
    .pluck(true)
    .get();
  if (!index || index.ids.length === 0 || BigInt(index.ids.length) !== filled) return null;
  if (column.geometry_type_name.toUpperCase() === 'POINT') toMiddles(index.boxes);
  const extent = extentOf(index.leafBoxes);
  return new ContainerStore(opened, index, extent, { table, column: column.column_name, key: keys[0]!.name });
}

/** Floats around a point are a box; it is drawn as a point. */
function toMiddles(boxes: Float64Array): void {
  for (let i = 0; i < boxes.length; i += 4) {
    boxes[i] = boxes[i + 2] = (boxes[i]! + boxes[i + 2]!) / 2;
    boxes[i + 1] = boxes[i + 3] = (boxes[i + 1]! + boxes[i + 3]!) / 2;
  }
}

function extentOf(boxes: Float64Array): Extent {
  const extent: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < boxes.length; i += 4) {
    extent[0] = Math.min(extent[0], boxes[i]!);
    extent[1] = Math.min(extent[1], boxes[i + 1]!);
    extent[2] = Math.max(extent[2], boxes[i + 2]!);
    extent[3] = Math.max(extent[3], boxes[i + 3]!);
  }
  return extent;
}
