import { existsSync } from 'node:fs';
import Flatbush from 'flatbush';
import { readFeatures, readWkb, type Extent, type WkbVisitor } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { closeSync, fstatSync, openSync, readFileSync, readSync, renameSync, writeFileSync, writeSync } from '../disk/files.js';
import { platformBelow } from '../survey/platform.js';
import type { Transformer } from '../crs/transformer.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { AREA, LINE, POINT, type Drawn, type ShapeStore, type StoredShape, type StoreHead } from './shape-store.js';

const CHUNK_BYTES = 4 << 20;
const AT = { head: 'head.json', shapes: 'shapes.bin', boxes: 'boxes.bin', offsets: 'offsets.bin', ids: 'ids.bin', index: 'index.bin' };

/**
 * The shapes of a dataset in the CRS that they are drawn in, with an index by place: made in one pass over the dataset, read
 * piece by piece. Layout of `shapes.bin`: kind and number of runs, their lengths (all 32 bits, filled to 8 bytes), positions.
 */
export class VectorStore implements ShapeStore {
  private constructor(
    readonly head: StoreHead,
    private readonly folder: string,
    readonly boxes: Float64Array,
    private readonly offsets: Float64Array,
    readonly ids: Float64Array,
    private readonly fd: number,
  ) {}

  static isAt(folder: string): boolean {
    return existsSync(join(folder, AT.head));
  }

  static open(folder: string): VectorStore {
    const read = (name: string): ArrayBuffer => readBuffer(join(folder, name));
    const head = JSON.parse(readFileSync(join(folder, AT.head), 'utf8')) as StoreHead;
    return new VectorStore(
      head,
      folder,
      new Float64Array(read(AT.boxes)),
      new Float64Array(read(AT.offsets)),
      new Float64Array(read(AT.ids)),
      openSync(join(folder, AT.shapes), 'r'),
    );
  }

  close(): void {
    closeSync(this.fd);
  }

  within([minx, miny, maxx, maxy]: Extent): readonly number[] | Uint32Array {
    const [left, bottom, right, top] = this.head.extent;
    if (minx <= left && miny <= bottom && maxx >= right && maxy >= top) return Uint32Array.from({ length: this.head.count }, (_, n) => n);
    return this.head.count === 0 ? [] : this.indexed.search(minx, miny, maxx, maxy);
  }

  near(extent: Extent): readonly number[] | Uint32Array {
    if (this.index) return this.index.search(...extent);
    const [minx, miny, maxx, maxy] = extent;
    const { boxes } = this;
    const found: number[] = [];
    for (let n = 0, i = 0; i < boxes.length; n++, i += 4)
      if (boxes[i]! <= maxx && boxes[i + 2]! >= minx && boxes[i + 1]! <= maxy && boxes[i + 3]! >= miny) found.push(n);
    return found;
  }

  /** Made when a part is wanted first: the first picture, which shows everything, does not wait for it. */
  private get indexed(): Flatbush {
    if (this.index) return this.index;
    const path = join(this.folder, AT.index);
    if (existsSync(path)) return (this.index = Flatbush.from(readBuffer(path)));
    const { boxes } = this;
    const index = new Flatbush(this.head.count, 16, Float64Array);
    for (let i = 0; i < boxes.length; i += 4) index.add(boxes[i]!, boxes[i + 1]!, boxes[i + 2], boxes[i + 3]);
    index.finish();
    writeFileSync(`${path}.part`, new Uint8Array(index.data));
    renameSync(`${path}.part`, path);
    return (this.index = index);
  }
  private index: Flatbush | null = null;

  shape(n: number): StoredShape {
    const from = this.offsets[n]!;
    const bytes = new Uint8Array(this.offsets[n + 1]! - from);
    for (let at = 0; at < bytes.length;) {
      const got = readSync(this.fd, bytes, at, bytes.length - at, from + at);
      if (got === 0) break;
      at += got;
    }
    const words = new Uint32Array(bytes.buffer);
    const lengths = words.subarray(2, 2 + words[1]!);
    let at = 8 + Math.ceil(words[1]! / 2) * 8;
    const runs = Array.from(lengths, (length) => {
      const run = new Float64Array(bytes.buffer, at, length * 2);
      at += length * 16;
      return run;
    });
    return { id: this.ids[n]!, kind: words[0] as Drawn, runs };
  }
}

/**
 * Makes the store of a dataset in `folder`. It is whole once its head stands there.
 * @param to null: it is drawn in its own CRS
 */
export function buildVectorStore(
  { folder: below, dataset }: FoundDataset,
  to: Transformer | null,
  folder: string,
  onProgress: (done: number) => void,
): void {
  const platform = platformBelow(below);
  const writer = new ShapeWriter(join(folder, AT.shapes));
  let done = 0;
  try {
    for (const { id, geometry } of readFeatures(dataset, platform, { geometry: true, values: false }).features) {
      if (geometry) writer.add(id, geometry, to);
      if ((++done & 4095) === 0) onProgress(done);
    }
  } finally {
    platform.close();
    writer.close();
  }
  const count = writer.ids.length;
  writeFileSync(join(folder, AT.boxes), bytesOf(writer.boxes.whole));
  writeFileSync(join(folder, AT.offsets), bytesOf(writer.offsets.whole));
  writeFileSync(join(folder, AT.ids), bytesOf(writer.ids.whole));
  const head: StoreHead = { count, extent: writer.extent(), lost: writer.lost };
  writeFileSync(join(folder, `${AT.head}.part`), JSON.stringify(head));
  renameSync(join(folder, `${AT.head}.part`), join(folder, AT.head));
}

/** The bytes of a file, aligned for numbers of any width. */
function readBuffer(path: string): ArrayBuffer {
  const fd = openSync(path, 'r');
  try {
    const bytes = new Uint8Array(fstatSync(fd).size);
    for (let at = 0; at < bytes.length;) {
      const got = readSync(fd, bytes, at, bytes.length - at, at);
      if (got === 0) break;
      at += got;
    }
    return bytes.buffer;
  } finally {
    closeSync(fd);
  }
}

const bytesOf = (array: Float64Array): Uint8Array => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);

/** Numbers that grow in number. */
class Growing {
  private array = new Float64Array(1024);
  length = 0;
  push(value: number): void {
    if (this.length === this.array.length) {
      const larger = new Float64Array(this.length * 2);
      larger.set(this.array);
      this.array = larger;
    }
    this.array[this.length++] = value;
  }
  get whole(): Float64Array {
    return this.array.subarray(0, this.length);
  }
}

class ShapeWriter implements WkbVisitor {
  readonly offsets = new Growing();
  readonly boxes = new Growing();
  readonly ids = new Growing();
  lost = 0;
  private readonly fd: number;
  private chunk = new Uint8Array(CHUNK_BYTES);
  private words = new Uint32Array(this.chunk.buffer);
  private doubles = new Float64Array(this.chunk.buffer);
  private filled = 0;
  private at = 0;
  private positions = new Float64Array(1 << 12);
  private readonly runs: number[] = [];
  private n = 0;
  private kind: Drawn = POINT;
  private isWhole = true;
  private to: Transformer | null = null;

  constructor(path: string) {
    this.fd = openSync(path, 'w');
    this.offsets.push(0);
  }

  add(id: number, wkb: Uint8Array, to: Transformer | null): void {
    this.to = to;
    this.runs.length = 0;
    this.n = 0;
    this.kind = POINT;
    this.isWhole = true;
    if (!readWkb(wkb, this) || !this.isWhole || this.n === 0) this.lost++;
    else this.write(id, this.kind, this.n);
  }

  // What `readWkb` calls on the way.
  geometry(code: number): void {
    if (code === 3) this.kind = AREA;
    else if (code === 2 && this.kind === POINT) this.kind = LINE;
  }
  run(): void {
    this.runs.push(this.n / 2);
  }
  vertex(x: number, y: number): void {
    if (this.n === this.positions.length) {
      const larger = new Float64Array(this.n * 2);
      larger.set(this.positions);
      this.positions = larger;
    }
    if (this.to === null) {
      this.positions[this.n++] = x;
      this.positions[this.n++] = y;
      return;
    }
    const image = this.to(x, y);
    if (!image) this.isWhole = false;
    else {
      this.positions[this.n++] = image[0];
      this.positions[this.n++] = image[1];
    }
  }

  private write(id: number, kind: Drawn, n: number): void {
    const { positions, runs } = this;
    const headBytes = 8 + Math.ceil(runs.length / 2) * 8;
    const bytes = headBytes + n * 8;
    if (this.filled + bytes > this.chunk.length) {
      this.flush();
      if (bytes > this.chunk.length) this.chunk = new Uint8Array(bytes);
      this.words = new Uint32Array(this.chunk.buffer);
      this.doubles = new Float64Array(this.chunk.buffer);
    }
    const { words, doubles } = this;
    const word = this.filled / 4;
    words[word] = kind;
    words[word + 1] = runs.length;
    for (let i = 0; i < runs.length; i++) words[word + 2 + i] = (runs[i + 1] ?? n / 2) - runs[i]!;
    const first = (this.filled + headBytes) / 8;
    let [minx, miny, maxx, maxy] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let i = 0; i < n; i += 2) {
      const [x, y] = [positions[i]!, positions[i + 1]!];
      doubles[first + i] = x;
      doubles[first + i + 1] = y;
      if (x < minx) minx = x;
      if (x > maxx) maxx = x;
      if (y < miny) miny = y;
      if (y > maxy) maxy = y;
    }
    this.filled += bytes;
    this.at += bytes;
    this.boxes.push(minx);
    this.boxes.push(miny);
    this.boxes.push(maxx);
    this.boxes.push(maxy);
    this.offsets.push(this.at);
    this.ids.push(id);
  }

  private flush(): void {
    for (let at = 0; at < this.filled;) at += writeSync(this.fd, this.chunk, at, this.filled - at);
    this.filled = 0;
  }

  close(): void {
    this.flush();
    closeSync(this.fd);
  }

  extent(): Extent {
    const all = this.boxes.whole;
    let [minx, miny, maxx, maxy] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let i = 0; i < all.length; i += 4) {
      minx = Math.min(minx, all[i]!);
      miny = Math.min(miny, all[i + 1]!);
      maxx = Math.max(maxx, all[i + 2]!);
      maxy = Math.max(maxy, all[i + 3]!);
    }
    return minx <= maxx ? [minx, miny, maxx, maxy] : [0, 0, 0, 0];
  }
}
