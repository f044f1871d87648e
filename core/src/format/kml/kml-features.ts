import type { ByteSource } from '../../bytes/byte-source.js';
import type { Field, FieldType, FileGroup } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
import { WKB, WkbWriter } from '../../geometry/wkb-writer.js';
import { xmlPieces } from '../../xml/read-xml.js';
import { describedFolders, MULTIS, openKml } from './describe-kml.js';

type Position = readonly number[];
interface Shape {
  readonly code: number;
  /** Rings of an area, or the one run of a line or point. */
  readonly runs: Position[][];
  /** Geometries that a MultiGeometry is made of. */
  readonly parts: Shape[];
}
const ofParts = (parts: Shape[]): Shape => ({ code: WKB.GeometryCollection, runs: [], parts });

/** Placemarks of one folder of a KML or KMZ (OGC 12-007r2); `table` null: of the only folder that has any. */
export function kmlFeatures(
  group: FileGroup,
  table: string | null,
  open: (path: string) => ByteSource,
  fields: readonly Field[],
  wanted: Wanted,
): FeatureStream {
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    const wantedFolder = table === null ? null : (describedFolders(group, open).get(table) ?? '');
    let id = 0;
    for (const { source, folder } of openKml(group, open)) {
      const reader = new PlacemarkReader(wantedFolder, folder);
      const steps = xmlPieces(source, reader);
      for (let isLast = false; !isLast;) {
        isLast = steps.next().done === true;
        for (const { shapes, values } of reader.taken())
          yield {
            id: id++,
            geometry: wanted.geometry ? toWkb(shapes) : null,
            values: wanted.values ? fields.map((f) => toValue(values.get(f.name), f.type)) : [],
          };
      }
    }
  }
}

interface Placemark {
  readonly shapes: Shape[];
  readonly values: Map<string, string>;
}

class PlacemarkReader {
  private readonly path: string[] = [];
  private readonly names: string[];
  private current: Placemark | null = null;
  private shape: Shape | null = null;
  /** MultiGeometries that are open, the outermost first. */
  private readonly around: Shape[] = [];
  private dataName: string | null = null;
  private words = '';
  private done: Placemark[] = [];

  /** @param folder path of the folder that is wanted; null: every placemark */
  constructor(
    private readonly folder: string | null,
    textFolder: string | null,
  ) {
    this.names = textFolder === null ? [] : [textFolder];
  }

  taken(): Placemark[] {
    const taken = this.done;
    this.done = [];
    return taken;
  }

  open(name: string, attributes: Readonly<Record<string, string>>): void {
    this.path.push(name);
    this.words = '';
    if (name === 'Folder') this.names.push(`folder_${this.names.length + 1}`);
    if (name === 'Placemark') this.current = { shapes: [], values: new Map() };
    if (!this.current) return;
    if (name === 'Data' || name === 'SimpleData') this.dataName = attributes['name'] ?? null;
    if (MULTIS.has(name)) this.around.push(ofParts([]));
    const code = CODES[name];
    if (code !== undefined && !(name === 'LinearRing' && this.shape)) this.shape = { code, runs: [], parts: [] };
  }

  text(text: string): void {
    this.words += text;
  }

  close(name: string): void {
    this.path.pop();
    const parent = this.path.at(-1);
    const text = this.words.trim();
    this.words = '';
    if (name === 'name' && parent === 'Folder' && text) this.names[this.names.length - 1] = text.replaceAll('/', '_');
    if (name === 'Folder') this.names.pop();
    if (!this.current) return;
    if ((name === 'name' || name === 'description') && parent === 'Placemark') this.current.values.set(name, text);
    if ((name === 'value' || name === 'SimpleData') && this.dataName !== null) this.current.values.set(this.dataName, text);
    if (name === 'Data' || name === 'SimpleData') this.dataName = null;
    if (name === 'coordinates') this.shape?.runs.push(positions(text));
    if (name === 'coord' && this.shape) (this.shape.runs[0] ??= []).push(...position(text.split(/\s+/)));
    if (this.shape && CODES[name] === this.shape.code && !(name === 'LinearRing' && this.shape.code !== WKB.LineString)) {
      this.keep(this.current, this.shape);
      this.shape = null;
    }
    if (MULTIS.has(name)) {
      const whole = this.around.pop();
      if (whole) this.keep(this.current, whole);
    }
    if (name === 'Placemark') {
      if (this.folder === null || this.names.join('/') === this.folder) this.done.push(this.current);
      this.current = null;
    }
  }

  private keep(placemark: Placemark, shape: Shape): void {
    (this.around.at(-1)?.parts ?? placemark.shapes).push(shape);
  }
}

const CODES: Readonly<Record<string, number>> = {
  Point: WKB.Point,
  LineString: WKB.LineString,
  LinearRing: WKB.LineString,
  Track: WKB.LineString,
  Polygon: WKB.Polygon,
};

/** One tuple after the other, without a list of all their texts. */
function positions(text: string): Position[] {
  const found: Position[] = [];
  for (const [tuple] of text.matchAll(/\S+/g)) found.push(...position(tuple.split(',')));
  return found;
}

/** Longitude, latitude and, where told, altitude. */
function position(parts: readonly string[]): Position[] {
  const numbers = parts.slice(0, 3).map(Number);
  return numbers.length >= 2 && numbers.every(Number.isFinite) ? [numbers] : [];
}

const writer = new WkbWriter();

/** A placemark has one geometry; where a file gives it more, they are kept together. */
function toWkb(shapes: Shape[]): Uint8Array | null {
  const shape = shapes.length === 1 ? shapes[0]! : ofParts(shapes);
  if (!isFilled(shape)) return null;
  writeShape(shape, isHigh(shape));
  return writer.finish();
}

const isFilled = ({ runs, parts }: Shape): boolean => runs.some((r) => r.length > 0) || parts.some(isFilled);
/** A height that is not told is 0 (OGC 12-007r2, clause 7.2). */
const isHigh = ({ runs, parts }: Shape): boolean => runs.some((r) => r.some((p) => p.length > 2)) || parts.some(isHigh);

/** Geometries of one kind are that kind's many, which stands three behind it. */
function codeOf(parts: readonly Shape[]): number {
  const codes = new Set(parts.map((p) => p.code));
  const [code] = codes;
  return codes.size === 1 && code! <= WKB.Polygon ? code! + 3 : WKB.GeometryCollection;
}

function writeShape({ code, runs, parts }: Shape, hasZ: boolean): void {
  if (code === WKB.GeometryCollection) {
    const filled = parts.filter(isFilled);
    writer.type(codeOf(filled), hasZ);
    writer.count(filled.length);
    for (const part of filled) writeShape(part, hasZ);
    return;
  }
  writer.type(code, hasZ);
  if (code === WKB.Polygon) writer.count(runs.length);
  for (const run of code === WKB.Polygon ? runs : runs.slice(0, 1)) {
    if (code !== WKB.Point) writer.count(run.length);
    for (const p of code === WKB.Point ? run.slice(0, 1) : run) writer.position(p[0]!, p[1]!, hasZ ? (p[2] ?? 0) : undefined);
  }
}

function toValue(text: string | undefined, type: FieldType): Value {
  if (text === undefined || text === '') return null;
  if (type === 'integer' || type === 'real') return Number.isNaN(Number(text)) ? null : Number(text);
  return type === 'boolean' ? /^(1|true)$/i.test(text) : text;
}
