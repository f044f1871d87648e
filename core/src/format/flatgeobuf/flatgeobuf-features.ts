import type { ByteBuffer } from 'flatbuffers';
import { Feature as FgbFeature } from 'flatgeobuf/lib/mjs/flat-geobuf/feature.js';
import type { Geometry } from 'flatgeobuf/lib/mjs/flat-geobuf/geometry.js';
import { Header } from 'flatgeobuf/lib/mjs/flat-geobuf/header.js';
import { ForwardReader } from '../../bytes/forward-reader.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import type { Field } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
import { WKB, WkbWriter } from '../../geometry/wkb-writer.js';
import { prefixed } from './describe-flatgeobuf.js';

const MAGIC_BYTES = 8;
const NODE_BYTES = 40;

/** Features of a FlatGeobuf (flatgeobuf.org, version 3), in the order of the file. `fields` are those of its header. */
export function flatgeobufFeatures(source: ByteSource, fields: readonly Field[], wanted: Wanted): FeatureStream {
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    const reader = new ForwardReader(source);
    reader.skip(MAGIC_BYTES);
    const head = takePrefixed(reader);
    if (!head) return;
    const header = Header.getSizePrefixedRootAsHeader(head);
    const types = Array.from({ length: header.columnsLength() }, (_, i) => header.columns(i)?.type() ?? -1);
    const shapes: Shapes = { kind: header.geometryType(), hasZ: header.hasZ(), hasM: header.hasM() };
    reader.skip(indexBytes(Number(header.featuresCount()), header.indexNodeSize()));
    for (let id = 0; ; id++) {
      const bytes = takePrefixed(reader);
      if (!bytes) return;
      const feature = FgbFeature.getSizePrefixedRootAsFeature(bytes);
      const geometry = wanted.geometry ? feature.geometry() : null;
      yield {
        id,
        geometry: geometry ? toWkb(geometry, shapes) : null,
        values: wanted.values ? valuesOf(feature.propertiesArray(), types) : [],
      };
    }
  }
}

/** The next buffer with its size in front; null at the end of the file. */
function takePrefixed(reader: ForwardReader): ByteBuffer | null {
  const start = reader.peek(4);
  if (start.byteLength < 4) return null;
  const size = start.getUint32(0, true) + 4;
  const view = reader.take(size);
  return view.byteLength < size ? null : prefixed(new Uint8Array(view.buffer, view.byteOffset, size));
}

/** Size of the packed R-tree behind the header: all nodes of all levels, 40 bytes each. */
function indexBytes(items: number, nodeSize: number): number {
  if (nodeSize < 2 || items === 0) return 0;
  let level = items;
  let nodes = items;
  do nodes += level = Math.ceil(level / nodeSize);
  while (level > 1);
  return nodes * NODE_BYTES;
}

const writer = new WkbWriter();

/** What the header says of all shapes; kind 0: each says its own. */
interface Shapes {
  readonly kind: number;
  readonly hasZ: boolean;
  readonly hasM: boolean;
}

function toWkb(geometry: Geometry, shapes: Shapes): Uint8Array | null {
  return writeGeometry(geometry, shapes.kind || geometry.type(), shapes, 0) ? writer.finish() : (writer.finish(), null);
}

/** Kinds that are made of whole geometries; their numbers are those of well-known binary. */
const OF_PARTS: ReadonlySet<number> = new Set([
  WKB.MultiPolygon,
  WKB.GeometryCollection,
  WKB.CompoundCurve,
  WKB.CurvePolygon,
  WKB.MultiCurve,
  WKB.MultiSurface,
]);

function writeGeometry(g: Geometry, kind: number, shapes: Shapes, depth: number): boolean {
  if (kind < WKB.Point || kind > WKB.MultiSurface || depth > 8) return false;
  const { hasZ, hasM } = shapes;
  if (OF_PARTS.has(kind)) {
    writer.type(kind, hasZ, hasM);
    writer.count(g.partsLength());
    for (let i = 0; i < g.partsLength(); i++) {
      const part = g.parts(i);
      if (!part || !writeGeometry(part, kind === WKB.MultiPolygon ? WKB.Polygon : part.type(), shapes, depth + 1)) return false;
    }
    return true;
  }
  const xy = g.xyArray();
  const [z, m] = [g.zArray(), g.mArray()];
  if (!xy || xy.length === 0) return false;
  if ((hasZ && z?.length !== xy.length / 2) || (hasM && m?.length !== xy.length / 2)) return false;
  const positions = (from: number, to: number): void => {
    for (let i = from; i < to; i++) {
      const third = hasZ ? z![i] : hasM ? m![i] : undefined;
      writer.position(xy[i * 2]!, xy[i * 2 + 1]!, third, hasZ && hasM ? m![i] : undefined);
    }
  };
  const points = xy.length / 2;
  const ends = g.endsArray() ?? new Uint32Array([points]);
  if (ends.some((end, i) => end > points || end < (ends[i - 1] ?? 0))) return false;
  writer.type(kind, hasZ, hasM);
  if (kind === WKB.Point) positions(0, 1);
  else if (kind === WKB.LineString || kind === WKB.CircularString) {
    writer.count(points);
    positions(0, points);
  } else if (kind === WKB.MultiPoint) {
    writer.count(points);
    for (let i = 0; i < points; i++) {
      writer.type(WKB.Point, hasZ, hasM);
      positions(i, i + 1);
    }
  } else {
    writer.count(ends.length);
    ends.forEach((end, i) => {
      const from = ends[i - 1] ?? 0;
      if (kind === WKB.MultiLineString) writer.type(WKB.LineString, hasZ, hasM);
      writer.count(end - from);
      positions(from, end);
    });
  }
  return true;
}

/** Pairs of a column's number (16 bits) and its value. Numbers as `ColumnType` of the schema has them. */
function valuesOf(bytes: Uint8Array | null, types: readonly number[]): Value[] {
  const values: Value[] = types.map(() => null);
  if (!bytes) return values;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 0; at + 2 <= bytes.length;) {
    const column = view.getUint16(at, true);
    const type = types[column];
    const size = type === undefined ? -1 : (FIXED[type] ?? (at + 6 <= bytes.length ? 4 + view.getUint32(at + 2, true) : -1));
    at += 2;
    if (size < 0 || at + size > bytes.length) break;
    values[column] = FIXED[type!] === undefined ? variable(bytes.subarray(at + 4, at + size), type!) : fixed(view, at, type!);
    at += size;
  }
  return values;
}

const FIXED: Readonly<Record<number, number>> = { 0: 1, 1: 1, 2: 1, 3: 2, 4: 2, 5: 4, 6: 4, 7: 8, 8: 8, 9: 4, 10: 8 };
const BINARY = 14;
const decoder = new TextDecoder();
const variable = (bytes: Uint8Array, type: number): Value => (type === BINARY ? bytes.slice() : decoder.decode(bytes));

function fixed(view: DataView, at: number, type: number): Value {
  const readers: (() => Value)[] = [
    () => view.getInt8(at),
    () => view.getUint8(at),
    () => view.getUint8(at) !== 0,
    () => view.getInt16(at, true),
    () => view.getUint16(at, true),
    () => view.getInt32(at, true),
    () => view.getUint32(at, true),
    () => small(view.getBigInt64(at, true)),
    () => small(view.getBigUint64(at, true)),
    () => view.getFloat32(at, true),
    () => view.getFloat64(at, true),
  ];
  return readers[type]!();
}

const small = (n: bigint): Value => (n >= -9007199254740991n && n <= 9007199254740991n ? Number(n) : n);
