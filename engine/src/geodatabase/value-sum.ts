import { createHash } from 'node:crypto';
import type { Field, Value } from '@rootmap/core';
import { toSql } from '../geopackage/write/write-features.js';

const ROOM = 1 << 18;
const [NULL, NUMBER, TEXT, BYTES] = [0, 1, 2, 3];

/** A checksum over all values of all records in their order, gathered in large pieces. Whole numbers count as doubles. */
export class ValueSum {
  private readonly hash = createHash('sha1');
  private readonly buffer = Buffer.allocUnsafe(ROOM);
  private at = 0;

  constructor(private readonly columns: readonly Field[]) {}

  /** A record as it was read. */
  addRead(values: readonly Value[]): void {
    for (let i = 0; i < values.length; i++) this.add(toSql(values[i]!, this.columns[i]!.type));
  }

  /** A value as SQLite has it. */
  add(value: unknown): void {
    if (value === null || value === undefined) this.tag(NULL);
    else if (typeof value === 'number' || typeof value === 'bigint') {
      this.tag(NUMBER);
      this.buffer.writeDoubleLE(Number(value), this.at);
      this.at += 8;
    } else if (typeof value === 'string') this.text(value);
    else this.bytes(value as Uint8Array);
  }

  private tag(tag: number): void {
    if (this.at + 16 > ROOM) this.flush();
    this.buffer[this.at++] = tag;
  }

  private text(value: string): void {
    this.tag(TEXT);
    if (value.length * 3 + this.at + 8 > ROOM) this.flush();
    if (value.length * 3 + 8 > ROOM) return this.bytes(Buffer.from(value, 'utf8'));
    const length = this.buffer.write(value, this.at + 4, 'utf8');
    this.buffer.writeUInt32LE(length, this.at);
    this.at += 4 + length;
  }

  private bytes(value: Uint8Array): void {
    this.tag(BYTES);
    this.flush();
    this.hash.update(`${value.length}:`);
    this.hash.update(value);
  }

  private flush(): void {
    this.hash.update(this.buffer.subarray(0, this.at));
    this.at = 0;
  }

  digest(): string {
    this.flush();
    return this.hash.digest('hex');
  }
}
