import { viewOf, type ByteSource } from '../../bytes/byte-source.js';
import { crsOfCode } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { unreadable, type Crs, type Description, type FileGroup } from '../../dataset/dataset.js';
import { describeHead } from '../../raster/describe-head.js';
import type { Transform } from '../../raster/georeference.js';
import { fromSideFiles, type Open } from '../../raster/side-files.js';

/** The hierarchical file architecture of `.img` files, as its maker has published it ("Machine Independent Format" and its node types). */
const TAG = 'EHFA_HEADER_TAG';
const ENTRY_BYTES = 128;
const MOST_NODES = 20_000;
const MOST_DATA = 1 << 16;

interface Node {
  readonly name: string;
  readonly type: string;
  readonly child: number;
  readonly next: number;
  readonly data: DataView;
}

/** Size, bands, place and, of UTM and degrees, the CRS of an `.img`; its pixels are not read. */
export function describeHfa(group: FileGroup, open: Open, table: CrsTable): Description {
  const source = open(group.path);
  const bad = (why: string): Description => unreadable('raster', `${group.path} cannot be read as an image with layers: ${why}.`);
  if (textOf(source.read(0, TAG.length)) !== TAG) return bad('it begins otherwise');
  const layers = layersOf(source);
  const size = layers[0]?.data;
  if (!size || size.byteLength < 8) return bad('it has no layer, or is damaged');
  const [width, height] = [size.getUint32(0, true), size.getUint32(4, true)];
  if (width === 0 || height === 0) return bad('its layers have no size');
  const inside = [...childrenOf(source, layers[0]!)];
  const side = fromSideFiles(group, open, table);
  const info = inside.find((n) => n.type === 'Eprj_MapInfo');
  return describeHead(group, {
    width,
    height,
    bands: layers.length,
    transform: (info ? transformOf(info.data) : null) ?? side.transform,
    crs: crsOf(source, inside, table) ?? side.crs,
  });
}

const textOf = (bytes: Uint8Array): string => new TextDecoder('latin1').decode(bytes).replace(/\0.*$/s, '');

function layersOf(source: ByteSource): Node[] {
  const head = viewOf(source.read(16, 4));
  if (head.byteLength < 4) return [];
  const file = viewOf(source.read(head.getUint32(0, true), 20));
  const root = file.byteLength < 12 ? null : nodeAt(source, file.getUint32(8, true));
  return root ? [...childrenOf(source, root)].filter((n) => n.type === 'Eimg_Layer') : [];
}

function nodeAt(source: ByteSource, at: number): Node | null {
  const bytes = at === 0 ? new Uint8Array(0) : source.read(at, ENTRY_BYTES);
  if (bytes.length < ENTRY_BYTES) return null;
  const view = viewOf(bytes);
  const [next, child, data, size] = [0, 12, 16, 20].map((offset) => view.getUint32(offset, true)) as [number, number, number, number];
  const name = textOf(bytes.subarray(24, 88));
  const type = textOf(bytes.subarray(88, 120));
  return { name, type, child, next, data: viewOf(data === 0 ? new Uint8Array(0) : source.read(data, Math.min(size, MOST_DATA))) };
}

function* childrenOf(source: ByteSource, { child }: Node): Generator<Node> {
  let left = MOST_NODES;
  for (let node = nodeAt(source, child); node && left-- > 0; node = nodeAt(source, node.next)) yield node;
}

/** What stands behind a pointer: how many, where, and then the things themselves. */
const POINTER_BYTES = 8;

/** Behind the name of the projection: the middles of the first and the last pixel, and the size of one. Null: damaged, or none. */
function transformOf(data: DataView): Transform | null {
  if (data.byteLength < 4) return null;
  let at = POINTER_BYTES + data.getUint32(0, true);
  const pair = (): readonly [number, number] | null => {
    if (at + POINTER_BYTES + 16 > data.byteLength) return null;
    const found = [data.getFloat64(at + POINTER_BYTES, true), data.getFloat64(at + POINTER_BYTES + 8, true)] as const;
    at += POINTER_BYTES + 16;
    return found;
  };
  const [first, last, size] = [pair(), pair(), pair()];
  if (!first || !last || !size || ![...first, ...size].every(Number.isFinite) || size[0] === 0) return null;
  return [first[0] - size[0] / 2, size[0], 0, first[1] + size[1] / 2, 0, -size[1]];
}

const UTM = 1;
const GEOGRAPHIC = 0;
/** Codes of degrees, and of UTM zones less the zone, north and south. */
const DATUMS: Readonly<Record<string, readonly [degrees: number, north: number, south: number | null]>> = {
  'WGS 84': [4326, 32600, 32700],
  WGS84: [4326, 32600, 32700],
  NAD83: [4269, 26900, null],
  NAD27: [4267, 26700, null],
};

/** Of UTM and of degrees on three datums; any other is not known by these parameters here. */
function crsOf(source: ByteSource, inside: readonly Node[], table: CrsTable): Crs | null {
  const projection = inside.find((n) => n.type === 'Eprj_ProParameters');
  if (!projection || projection.data.byteLength < 6) return null;
  const { data } = projection;
  // Type (16 bits), number (32), the name of the program (pointer), the name (pointer), zone (32), parameters (pointer).
  const number = data.getUint32(2, true);
  let at = 6;
  for (let i = 0; i < 2; i++) {
    if (at + POINTER_BYTES > data.byteLength) return null;
    at += POINTER_BYTES + data.getUint32(at, true);
  }
  if (at + 4 + POINTER_BYTES + 32 > data.byteLength) return null;
  const zone = data.getUint32(at, true);
  const hemisphere = data.getFloat64(at + 4 + POINTER_BYTES + 24, true);
  const datum = [...childrenOf(source, projection)].find((n) => n.type === 'Eprj_Datum');
  const named = datum && datum.data.byteLength > POINTER_BYTES ? nameIn(datum.data) : '';
  const codes = DATUMS[named];
  if (!codes) return { code: null, name: named === '' ? null : `on ${named}`, wkt: null };
  if (number === GEOGRAPHIC) return crsOfCode(`EPSG:${codes[0]}`, table);
  const base = hemisphere < 0 ? codes[2] : codes[1];
  return number === UTM && base !== null && zone >= 1 && zone <= 60
    ? crsOfCode(`EPSG:${base + zone}`, table)
    : { code: null, name: `on ${named}`, wkt: null };
}

function nameIn(data: DataView): string {
  const length = Math.min(data.getUint32(0, true), data.byteLength - POINTER_BYTES);
  return textOf(new Uint8Array(data.buffer, data.byteOffset + POINTER_BYTES, length));
}
