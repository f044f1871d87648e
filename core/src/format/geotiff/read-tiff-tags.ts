import { viewOf, type ByteSource } from '../../bytes/byte-source.js';
import { done, fail, type Result } from '../../problem.js';

/** Tags of the first image of a TIFF, by number. Numbers are kept as doubles; offsets beyond 2^53 do not occur. */
export interface TiffTags {
  readonly littleEndian: boolean;
  readonly numbers: ReadonlyMap<number, readonly number[]>;
  readonly texts: ReadonlyMap<number, string>;
  /** Where the tags of the next image stand; 0: this is the last. */
  readonly next: number;
}

const MOST_TAGS = 4096;
const MOST_IMAGES = 64;
/** Strip and tile tables are the longest values: 16 MiB of them describe any image. */
const LONGEST_VALUE_BYTES = 16 * 1024 * 1024;
/** Bytes a value, by TIFF field type. TIFF 6.0 page 15; 16 to 18 from BigTIFF. */
const TYPE_BYTES: readonly number[] = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4, 0, 0, 8, 8, 8];
const ASCII = 2;

/** The tags of the images behind the first: reduced ones, masks, further pages. Ends at the first that is damaged. */
export function* furtherTiffTags(file: string, source: ByteSource, first: TiffTags): Generator<TiffTags> {
  const isBig = viewOf(source.read(0, 4)).getUint16(2, first.littleEndian) === 43;
  const seen = new Set<number>();
  for (let at = first.next; at !== 0 && !seen.has(at) && seen.size < MOST_IMAGES;) {
    seen.add(at);
    const tags = readDirectory(file, source, at, first.littleEndian, isBig);
    if (!tags.ok) return;
    yield tags.value;
    at = tags.value.next;
  }
}

/** Reads the tags of the first image. Byte order, version (42 TIFF, 43 BigTIFF), offsets and lengths are checked. Never throws. */
export function readTiffTags(file: string, source: ByteSource): Result<TiffTags> {
  const head = viewOf(source.read(0, 16));
  if (head.byteLength < 8) return fail({ code: 'truncated', file, neededBytes: 8, gotBytes: head.byteLength });
  const order = head.getUint16(0);
  if (order !== 0x4949 && order !== 0x4d4d)
    return fail({ code: 'bad-field', file, field: 'the byte order', offset: 0, expected: 'II or MM', found: order });
  const little = order === 0x4949;
  const version = head.getUint16(2, little);
  if (version !== 42 && version !== 43)
    return fail({ code: 'bad-field', file, field: 'the version', offset: 2, expected: '42 or 43', found: version });
  const big = version === 43;
  if (big && head.byteLength < 16) return fail({ code: 'truncated', file, neededBytes: 16, gotBytes: head.byteLength });
  const first = big ? Number(head.getBigUint64(8, little)) : head.getUint32(4, little);
  return readDirectory(file, source, first, little, big);
}

function readDirectory(file: string, source: ByteSource, offset: number, little: boolean, big: boolean): Result<TiffTags> {
  const countBytes = big ? 8 : 2;
  const entryBytes = big ? 20 : 12;
  const head = viewOf(source.read(offset, countBytes));
  if (head.byteLength < countBytes) return fail({ code: 'truncated', file, neededBytes: offset + countBytes, gotBytes: source.sizeBytes });
  const count = big ? Number(head.getBigUint64(0, little)) : head.getUint16(0, little);
  if (count === 0 || count > MOST_TAGS)
    return fail({ code: 'bad-field', file, field: 'the number of tags', offset, expected: `1 to ${MOST_TAGS}`, found: count });
  const body = viewOf(source.read(offset + countBytes, count * entryBytes));
  if (body.byteLength < count * entryBytes)
    return fail({ code: 'truncated', file, neededBytes: offset + countBytes + count * entryBytes, gotBytes: source.sizeBytes });
  const numbers = new Map<number, readonly number[]>();
  const texts = new Map<number, string>();
  for (let i = 0; i < count; i++) {
    const at = i * entryBytes;
    const tag = body.getUint16(at, little);
    const type = body.getUint16(at + 2, little);
    const values = big ? Number(body.getBigUint64(at + 4, little)) : body.getUint32(at + 4, little);
    const size = (TYPE_BYTES[type] ?? 0) * values;
    if (size === 0 || size > LONGEST_VALUE_BYTES) continue; // unknown types are passed over, as TIFF 6.0 asks
    const inline = big ? 8 : 4;
    const slot = at + (big ? 12 : 8);
    const data =
      size <= inline
        ? new DataView(body.buffer, body.byteOffset + slot, size)
        : viewOf(source.read(big ? Number(body.getBigUint64(slot, little)) : body.getUint32(slot, little), size));
    if (data.byteLength < size) continue;
    if (type === ASCII)
      texts.set(tag, new TextDecoder('utf-8').decode(new Uint8Array(data.buffer, data.byteOffset, size)).replace(/\0[\s\S]*$/, ''));
    else numbers.set(tag, readNumbers(data, type, values, little));
  }
  const tail = viewOf(source.read(offset + countBytes + count * entryBytes, big ? 8 : 4));
  const next = tail.byteLength < (big ? 8 : 4) ? 0 : big ? Number(tail.getBigUint64(0, little)) : tail.getUint32(0, little);
  return done({ littleEndian: little, numbers, texts, next });
}

function readNumbers(view: DataView, type: number, count: number, little: boolean): number[] {
  const step = TYPE_BYTES[type]!;
  const out = new Array<number>(count);
  for (let i = 0; i < count; i++) out[i] = readNumber(view, type, i * step, little);
  return out;
}

function readNumber(view: DataView, type: number, at: number, little: boolean): number {
  switch (type) {
    case 3:
      return view.getUint16(at, little);
    case 4:
    case 13:
      return view.getUint32(at, little);
    case 5:
      return view.getUint32(at, little) / view.getUint32(at + 4, little);
    case 6:
      return view.getInt8(at);
    case 8:
      return view.getInt16(at, little);
    case 9:
      return view.getInt32(at, little);
    case 10:
      return view.getInt32(at, little) / view.getInt32(at + 4, little);
    case 11:
      return view.getFloat32(at, little);
    case 12:
      return view.getFloat64(at, little);
    case 16:
    case 18:
      return Number(view.getBigUint64(at, little));
    case 17:
      return Number(view.getBigInt64(at, little));
    default:
      return view.getUint8(at);
  }
}
