import { viewOf, type ByteSource } from '../../bytes/byte-source.js';

import { crsOfCode } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { unreadable, type Crs, type Description, type FileGroup } from '../../dataset/dataset.js';
import { explain } from '../../problem.js';
import { describeHead } from '../../raster/describe-head.js';
import type { Transform } from '../../raster/georeference.js';
import { fromSideFiles, type Open } from '../../raster/side-files.js';

/** Boxes of ISO/IEC 15444-1, annex I: a length, four letters, content. */
const SIGNATURE = [0, 0, 0, 12, 0x6a, 0x50, 0x20, 0x20];
/** A codestream that stands alone begins with SOC and SIZ (annex A.4 and A.5). */
const CODESTREAM = [0xff, 0x4f, 0xff, 0x51];
/** The box of a GeoTIFF that tells where the picture lies (common practice of several programs, no standard). */
const GEOTIFF_ID = 'b14bf8bd083d4b43a5ae8cd7d5a6ce03';
const MOST_BOXES = 1000;
const LARGEST_BOX = 4 << 20;

interface Found {
  size: readonly [width: number, height: number, bands: number] | null;
  tiff: Uint8Array | null;
  /** Geography Markup Language in JPEG 2000 (OGC 08-085r8). */
  gml: string | null;
}

export interface Placed {
  readonly transform: Transform | null;
  readonly crs: Crs | null;
}

/**
 * Size, bands, place and CRS of a JPEG 2000; its pixels are not read.
 * @param placeOfTiff where the GeoTIFF inside says that it lies
 */
export function describeJp2(group: FileGroup, open: Open, table: CrsTable, placeOfTiff: (tiff: Uint8Array) => Placed | null): Description {
  const source = open(group.path);
  const head = source.read(0, 64);
  const startsWith = (bytes: readonly number[]): boolean => bytes.every((b, i) => head[i] === b);
  const found: Found = { size: null, tiff: null, gml: null };
  if (startsWith(CODESTREAM) && head.length >= 42) found.size = sizeOfCodestream(head);
  else if (startsWith(SIGNATURE)) readBoxes(source, 0, source.sizeBytes, found, { left: MOST_BOXES });
  if (!found.size)
    return unreadable(
      'raster',
      explain({
        code: 'bad-field',
        file: group.path,
        field: 'the image size',
        offset: 0,
        expected: 'a header of JPEG 2000',
        found: 'none',
      }),
    );
  const [width, height, bands] = found.size;
  const side = fromSideFiles(group, open, table);
  const inside = (found.tiff && placeOfTiff(found.tiff)) ?? (found.gml ? placeOfGml(found.gml, table) : null);
  return describeHead(group, { width, height, bands, transform: inside?.transform ?? side.transform, crs: inside?.crs ?? side.crs });
}

/** SIZ: width and height from the reference grid, less the offset of the image (annex A.5.1). */
function sizeOfCodestream(head: Uint8Array): Found['size'] {
  const view = viewOf(head);
  return [view.getUint32(8) - view.getUint32(16), view.getUint32(12) - view.getUint32(20), view.getUint16(40)];
}

function readBoxes(source: ByteSource, from: number, to: number, found: Found, budget: { left: number }): void {
  for (let at = from; at + 8 <= to && budget.left-- > 0;) {
    const head = source.read(at, 32);
    if (head.length < 8) return;
    const view = viewOf(head);
    const kind = String.fromCharCode(...head.subarray(4, 8));
    const short = view.getUint32(0);
    const isLong = short === 1 && head.length >= 16;
    const start = at + (isLong ? 16 : 8);
    const end = short === 0 ? to : at + (isLong ? Number(view.getBigUint64(8)) : short);
    if (end <= at || end > to) return;
    const content = (): Uint8Array => source.read(start, Math.min(end - start, LARGEST_BOX));
    if (kind === 'jp2h' || kind === 'asoc') readBoxes(source, start, end, found, budget);
    else if (kind === 'ihdr' && end - start >= 10) {
      const box = viewOf(content());
      found.size = [box.getUint32(4), box.getUint32(0), box.getUint16(8)];
    } else if (kind === 'uuid') {
      const box = content();
      const id = Array.from(box.subarray(0, 16), (b) => b.toString(16).padStart(2, '0')).join('');
      if (id === GEOTIFF_ID) found.tiff = box.slice(16);
    } else if (kind === 'xml ') {
      const text = new TextDecoder().decode(content());
      if (/RectifiedGrid\b/.test(text)) found.gml = text;
    }
    at = end;
  }
}

/** A rectified grid: the middle of the first pixel, and the steps along both axes (GML 3.1.1, clause 19; axes x, y as most write them). */
function placeOfGml(gml: string, table: CrsTable): Placed {
  const numbers = (pattern: RegExp): number[][] =>
    [...gml.matchAll(pattern)].map(([, text]) =>
      text!
        .trim()
        .split(/[\s,]+/)
        .map(Number),
    );
  const [origin] = numbers(/<(?:\w+:)?pos\b[^>]*>([^<]*)</g);
  const [across, down] = numbers(/<(?:\w+:)?offsetVector\b[^>]*>([^<]*)</g);
  const code = /srsName="[^"]*(?:EPSG[:/]+(?:[\d.]*[:/])?)(\d+)"/i.exec(gml)?.[1];
  const crs = code === undefined ? null : crsOfCode(`EPSG:${code}`, table);
  if (!origin || !across || !down || [...origin, ...across, ...down].some((n) => !Number.isFinite(n))) return { transform: null, crs };
  const [a, d, b, e] = [across[0]!, across[1]!, down[0]!, down[1]!];
  return { transform: [origin[0]! - a / 2 - b / 2, a, b, origin[1]! - d / 2 - e / 2, d, e], crs };
}
