import type { ByteSource } from '../../bytes/byte-source.js';
import type { Field, FieldType, FileGroup } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
import { WKB, WkbWriter } from '../../geometry/wkb-writer.js';
import { xmlPieces } from '../../xml/read-xml.js';

const RECORD: Readonly<Record<string, string>> = { waypoints: 'wpt', routes: 'rte', tracks: 'trk' };
const POINT: Readonly<Record<string, string>> = { waypoints: 'wpt', routes: 'rtept', tracks: 'trkpt' };

/** Waypoints, routes or tracks of a GPX file (GPX 1.1): points, lines, and lines of one or more segments. */
export function gpxFeatures(
  group: FileGroup,
  table: string | null,
  open: (path: string) => ByteSource,
  fields: readonly Field[],
  wanted: Wanted,
): FeatureStream {
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    const reader = new RecordReader(table ?? 'waypoints');
    const steps = xmlPieces(open(group.path), reader);
    let id = 0;
    for (let isLast = false; !isLast;) {
      isLast = steps.next().done === true;
      for (const { runs, values } of reader.taken())
        yield {
          id: id++,
          geometry: wanted.geometry ? toWkb(table ?? 'waypoints', runs) : null,
          values: wanted.values ? fields.map((f) => toValue(values.get(f.name), f.type)) : [],
        };
    }
  }
}

interface GpxRecord {
  readonly runs: { x: number; y: number; z: number | null }[][];
  readonly values: Map<string, string>;
}

class RecordReader {
  private readonly path: string[] = [];
  private current: GpxRecord | null = null;
  private words = '';
  private done: GpxRecord[] = [];

  constructor(private readonly table: string) {}

  taken(): GpxRecord[] {
    const taken = this.done;
    this.done = [];
    return taken;
  }

  open(name: string, attributes: Readonly<Record<string, string>>): void {
    this.path.push(name);
    this.words = '';
    if (this.path.length === 2 && name === RECORD[this.table]) this.current = { runs: [], values: new Map() };
    if (!this.current) return;
    if (name === 'trkseg' || (this.current.runs.length === 0 && name === POINT[this.table])) this.current.runs.push([]);
    if (name === POINT[this.table]) this.current.runs.at(-1)!.push({ x: Number(attributes['lon']), y: Number(attributes['lat']), z: null });
  }

  text(text: string): void {
    this.words += text;
  }

  close(name: string): void {
    this.path.pop();
    const parent = this.path.at(-1);
    const text = this.words.trim();
    this.words = '';
    if (!this.current) return;
    const point = this.current.runs.at(-1)?.at(-1);
    if (name === 'ele' && parent === POINT[this.table] && point && text !== '' && Number.isFinite(Number(text))) point.z = Number(text);
    if (this.path.length === 2) this.current.values.set(name, text);
    if (this.path.length === 1 && name === RECORD[this.table]) {
      this.done.push(this.current);
      this.current = null;
    }
  }
}

const writer = new WkbWriter();

function toWkb(table: string, runs: GpxRecord['runs']): Uint8Array | null {
  const filled = runs.filter((r) => r.length > 0);
  if (filled.length === 0) return null;
  const hasZ = filled.some((r) => r.some((p) => p.z !== null)); // the others get 0, which describing the file tells
  if (table === 'tracks') {
    writer.type(WKB.MultiLineString, hasZ);
    writer.count(filled.length);
  }
  for (const run of filled) {
    writer.type(table === 'waypoints' ? WKB.Point : WKB.LineString, hasZ);
    if (table !== 'waypoints') writer.count(run.length);
    for (const p of run) writer.position(p.x, p.y, hasZ ? (p.z ?? 0) : undefined);
  }
  return writer.finish();
}

const toValue = (text: string | undefined, type: FieldType): Value =>
  text === undefined || text === ''
    ? null
    : type === 'integer' || type === 'real'
      ? Number.isNaN(Number(text))
        ? null
        : Number(text)
      : text;
