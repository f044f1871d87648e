import { viewOf, type ByteSource } from '../../bytes/byte-source.js';

const HEADER = 100;
const WINDOW = 1 << 20;

/**
 * The `.shx` of a `.shp`, made anew from its record headers. ESRI Shapefile Technical Description (1998), page 23: the header
 * of the main file with its own length, then offset and length of each record in 16-bit words, big-endian.
 * Null: a record reaches beyond the file, or has no sense; then the shapes are damaged, too.
 */
export function indexOfShapes(shp: ByteSource): Uint8Array | null {
  if (shp.sizeBytes < HEADER) return null;
  const header = shp.read(0, HEADER);
  if (viewOf(header).getInt32(0) !== 9994) return null;
  const records: number[] = [];
  let window = new Uint8Array(0);
  let from = 0;
  for (let at = HEADER; at < shp.sizeBytes;) {
    if (at + 8 > shp.sizeBytes) return null;
    if (at < from || at + 8 > from + window.length) {
      from = at;
      window = new Uint8Array(shp.read(at, Math.min(WINDOW, shp.sizeBytes - at)));
    }
    const words = viewOf(window).getInt32(at - from + 4);
    const next = at + 8 + words * 2;
    if (words < 2 || next > shp.sizeBytes) return null;
    records.push(at / 2, words);
    at = next;
  }
  const out = new Uint8Array(HEADER + records.length * 4);
  out.set(header);
  const view = viewOf(out);
  view.setInt32(24, out.length / 2);
  records.forEach((n, i) => view.setInt32(HEADER + i * 4, n));
  return out;
}
