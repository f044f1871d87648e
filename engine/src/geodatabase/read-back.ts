import { createHash, type Hash } from 'node:crypto';
import type Database from 'better-sqlite3';
import { wkbOffset, type Field } from '@rootmap/core';
import { quoteName } from '../geopackage/describe-geopackage.js';

/** Rows whose text is asked for at once. */
const BATCH = 500;
/** JSON writes doubles in ways that differ, and holds no bytes: such columns are compared as they are. */
const IS_PLAIN: ReadonlySet<Field['type']> = new Set(['real', 'binary']);

/**
 * A checksum over all values and shapes of all records in their order, twice: as they were read, and as they stand in a table. Text and
 * whole numbers go as JSON arrays, which SQLite makes in one call for many rows; doubles, bytes and shapes go as they are.
 */
export class ReadBack {
  private readonly texts: readonly number[];
  private readonly plains: readonly number[];
  private readonly sum = new Sum();
  private readonly shapes = new Sum();
  private pending: string[] = [];

  /** @param hasShapes the table has shapes, in the column `geom` */
  constructor(
    private readonly columns: readonly Field[],
    private readonly hasShapes: boolean,
  ) {
    const at = columns.map((_, i) => i);
    this.texts = at.filter((i) => !IS_PLAIN.has(columns[i]!.type));
    this.plains = at.filter((i) => IS_PLAIN.has(columns[i]!.type));
  }

  /** A record as it was read, with its values from `from` on, as SQLite takes them. */
  add(row: readonly unknown[], from: number, shape: Uint8Array | null): void {
    if (this.hasShapes) this.shapes.bytes(shape);
    if (this.texts.length > 0) {
      const values = new Array<unknown>(this.texts.length);
      for (let i = 0; i < values.length; i++) values[i] = row[from + this.texts[i]!];
      this.pending.push(jsonOf(values));
      if (this.pending.length === BATCH) this.flush();
    }
    for (const i of this.plains) this.sum.plain(row[from + i]);
  }

  private flush(): void {
    this.sum.text(this.pending.join(','));
    this.pending = [];
  }

  /** Whether the rows of a table with the keys from `first` to `last` have what was read. No key between them is left out. */
  isEqualTo(db: Database.Database, table: string, first: number, last: number): boolean {
    if (this.pending.length > 0) this.flush();
    const found = new Sum();
    if (this.texts.length > 0) this.readTexts(db, table, first, last, found);
    if (this.plains.length > 0) this.readPlains(db, table, first, last, found);
    return this.sum.digest() === found.digest() && (!this.hasShapes || this.shapes.digest() === shapesIn(db, table, first, last));
  }

  private readTexts(db: Database.Database, table: string, first: number, last: number, found: Sum): void {
    const names = this.texts.map((i) => quoteName(this.columns[i]!.name)).join(', ');
    const batch = db
      .prepare<[number, number], string | null>(
        `SELECT group_concat(row, ',') FROM (SELECT json_array(${names}) AS row FROM ${quoteName(table)} WHERE fid BETWEEN ? AND ? ORDER BY fid)`,
      )
      .pluck(true);
    for (let from = first; from <= last; from += BATCH) found.text(batch.get(from, Math.min(last, from + BATCH - 1)) ?? '');
  }

  private readPlains(db: Database.Database, table: string, first: number, last: number, found: Sum): void {
    const names = this.plains.map((i) => quoteName(this.columns[i]!.name)).join(', ');
    const rows = db.prepare(`SELECT ${names} FROM ${quoteName(table)} WHERE fid BETWEEN ? AND ? ORDER BY fid`).raw(true);
    for (const row of rows.iterate(first, last) as IterableIterator<unknown[]>) for (const value of row) found.plain(value);
  }
}

/** Well-known binary of each row, behind the header of a GeoPackage (OGC 12-128r17, clause 2.1.3) as it states its length. */
function shapesIn(db: Database.Database, table: string, first: number, last: number): string {
  const found = new Sum();
  const rows = db
    .prepare<[number, number], Uint8Array | null>(`SELECT geom FROM ${quoteName(table)} WHERE fid BETWEEN ? AND ? ORDER BY fid`)
    .pluck(true);
  for (const blob of rows.iterate(first, last)) {
    const from = blob && wkbOffset(blob);
    found.bytes(blob && from !== null ? blob.subarray(from) : null);
  }
  return found.digest();
}

/** As SQLite's `json_array` writes it. */
function jsonOf(values: readonly unknown[]): string {
  try {
    const text = JSON.stringify(values);
    // A surrogate without its other half is stored as the sign for what cannot be shown.
    return text.includes('\\ud')
      ? JSON.stringify(values.map((v) => (typeof v === 'string' ? Buffer.from(v, 'utf8').toString('utf8') : v)))
      : text;
  } catch {
    return `[${values.map((v) => (typeof v === 'bigint' ? v.toString() : JSON.stringify(v))).join(',')}]`; // JSON.stringify takes no bigint
  }
}

const ROOM = 1 << 16;
const [NULL, NUMBER, BYTES] = [0, 1, 2];

class Sum {
  private readonly texts: Hash = createHash('sha1');
  private readonly plains: Hash = createHash('sha1');
  private readonly buffer = Buffer.allocUnsafe(ROOM);
  private at = 0;

  text(text: string): void {
    this.texts.update(text);
  }

  plain(value: unknown): void {
    if (this.at + 16 > ROOM) this.flush();
    if (typeof value === 'number' || typeof value === 'bigint') {
      this.buffer[this.at] = NUMBER;
      this.buffer.writeDoubleLE(Number(value) + 0, this.at + 1); // SQLite knows one zero: -0 comes back as 0
      this.at += 9;
    } else if (value instanceof Uint8Array) {
      this.buffer[this.at] = BYTES;
      this.buffer.writeDoubleLE(value.length, this.at + 1);
      this.at += 9;
      this.flush();
      this.plains.update(value);
    } else this.buffer[this.at++] = NULL;
  }

  /** With their number in front; small ones are gathered, since each call costs. */
  bytes(value: Uint8Array | null): void {
    const length = value?.length ?? -1;
    if (this.at + 8 + Math.max(0, length) > ROOM) this.flush();
    this.buffer.writeDoubleLE(length, this.at);
    this.at += 8;
    if (!value) return;
    if (this.at + length > ROOM) {
      this.flush();
      this.plains.update(value);
    } else {
      this.buffer.set(value, this.at);
      this.at += length;
    }
  }

  private flush(): void {
    this.plains.update(this.buffer.subarray(0, this.at));
    this.at = 0;
  }

  digest(): string {
    this.flush();
    return this.texts.digest('hex') + this.plains.digest('hex');
  }
}
