import { viewOf, type ByteSource } from '../../bytes/byte-source.js';
import { done, fail, type Result } from '../../problem.js';

export interface ImageSize {
  readonly width: number;
  readonly height: number;
  readonly bands: number;
}

const PNG_MAGIC = 0x89504e47;
const PNG_BANDS: Readonly<Record<number, number>> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };
const LONGEST_JPEG_HEAD = 1024 * 1024;

/** Size of a PNG (ISO/IEC 15948, IHDR) or JPEG (ISO/IEC 10918-1, SOFn). Never throws. */
export function readImageSize(file: string, source: ByteSource): Result<ImageSize> {
  const head = viewOf(source.read(0, 32));
  if (head.byteLength < 26) return fail({ code: 'truncated', file, neededBytes: 26, gotBytes: head.byteLength });
  if (head.getUint32(0) === PNG_MAGIC && head.getUint32(12) === 0x49484452)
    return done({ width: head.getUint32(16), height: head.getUint32(20), bands: PNG_BANDS[head.getUint8(25)] ?? 1 });
  if (head.getUint16(0) === 0xffd8) return readJpeg(file, source);
  return fail({ code: 'bad-field', file, field: 'the beginning', offset: 0, expected: 'that of a PNG or JPEG', found: head.getUint32(0) });
}

function readJpeg(file: string, source: ByteSource): Result<ImageSize> {
  const view = viewOf(source.read(0, LONGEST_JPEG_HEAD));
  for (let at = 2; at + 9 < view.byteLength;) {
    if (view.getUint8(at) !== 0xff) break;
    const marker = view.getUint8(at + 1);
    if (marker === 0xff) {
      at++;
      continue;
    }
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) return done({ height: view.getUint16(at + 5), width: view.getUint16(at + 7), bands: view.getUint8(at + 9) });
    at += 2 + Math.max(2, view.getUint16(at + 2));
  }
  return fail({ code: 'bad-field', file, field: 'the frame header', offset: 2, expected: 'present', found: 'missing' });
}
