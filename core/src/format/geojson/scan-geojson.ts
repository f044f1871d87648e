import { pieces, type ByteSource } from '../../bytes/byte-source.js';
import type { Field, FieldType } from '../../dataset/dataset.js';
import { JsonError, JsonStream } from '../../json/json-stream.js';
import { fail, done, type Result } from '../../problem.js';

/** What one streaming read of a GeoJSON text gives (RFC 7946). */
export interface GeoJsonScan {
  readonly rootType: string | null;
  readonly features: number;
  readonly geometryTypes: ReadonlySet<string>;
  readonly hasZ: boolean;
  readonly fields: readonly Field[];
  readonly vertices: number;
  readonly extent: [number, number, number, number] | null;
  /** What the `crs` of the 2008 specification, which RFC 7946 removed, names: a name, `EPSG:n` for a code, the address of a link. */
  readonly crsName: string | null;
  /** `crs` is null: it has none that can be assumed (GeoJSON 2008, clause 3). */
  readonly isCrsDenied: boolean;
}

/** Features one after the other instead of one collection (RFC 8142, or a line each). */
export type Arrangement = 'collection' | 'sequence';

const GEOMETRIES = new Set(['Point', 'MultiPoint', 'LineString', 'MultiLineString', 'Polygon', 'MultiPolygon', 'GeometryCollection']);
const MOST_FIELDS = 2000;
type Role = 'root' | 'feature' | 'features' | 'geometry' | 'geometries' | 'coordinates' | 'properties' | 'crs' | 'crs-properties' | 'other';

/** Streams a GeoJSON file in bounded memory. `onVertex` gets x (east or longitude) and y of each position. */
export function scanGeoJson(
  file: string,
  source: ByteSource,
  arrangement: Arrangement,
  onVertex?: (x: number, y: number) => void,
): Result<GeoJsonScan> {
  const scanner = new Scanner(arrangement, onVertex);
  const stream = new JsonStream(scanner, arrangement === 'sequence' ? 'many' : 'one');
  const decoder = new TextDecoder('utf-8');
  try {
    for (const piece of pieces(source, 1 << 18)) stream.write(decoder.decode(piece, { stream: true }));
    stream.write(decoder.decode());
    stream.end();
  } catch (error) {
    if (!(error instanceof JsonError)) throw error;
    return fail({ code: 'bad-json', file, line: error.line, column: error.column, expected: error.expected });
  }
  const result = scanner.result();
  if (scanner.isListInSequence)
    return fail({ code: 'wrong-shape', file, member: 'type', expected: 'a feature or a geometry in each record of a sequence' });
  if (arrangement === 'sequence') return done(result);
  if (result.rootType !== 'FeatureCollection' && result.rootType !== 'Feature' && !GEOMETRIES.has(result.rootType ?? ''))
    return fail({ code: 'wrong-shape', file, member: 'type', expected: 'a GeoJSON type (FeatureCollection, Feature or a geometry)' });
  return done(result);
}

class Scanner {
  private readonly roles: Role[] = [];
  private readonly keys: (string | null)[] = [];
  private lastKey: string | null = null;
  private position: number[] = [];
  private rootType: string | null = null;
  private features = 0;
  private vertices = 0;
  private hasZ = false;
  private extent: [number, number, number, number] | null = null;
  private crsName: string | null = null;
  private isCrsDenied = false;
  private readonly geometryTypes = new Set<string>();
  private readonly fields = new Map<string, FieldType | null>();

  private readonly idTypes = { feature: null as FieldType | null, root: null as FieldType | null };
  isListInSequence = false;

  constructor(
    private readonly arrangement: Arrangement,
    private readonly onVertex: ((x: number, y: number) => void) | undefined,
  ) {}

  result(): GeoJsonScan {
    const bare = this.rootType !== 'FeatureCollection' && this.rootType !== 'Feature' && this.rootType !== null;
    return {
      rootType: this.rootType,
      features: this.arrangement === 'collection' && (bare || this.rootType === 'Feature') ? 1 : this.features,
      geometryTypes: this.geometryTypes,
      hasZ: this.hasZ,
      fields: [...this.idField(), ...[...this.fields].map(([name, type]) => ({ name, type: type ?? 'text' }))],
      vertices: this.vertices,
      extent: this.extent,
      crsName: this.crsName,
      isCrsDenied: this.isCrsDenied,
    };
  }

  /** The `id` of features, under a name that no property has. */
  private idField(): Field[] {
    const type = this.idTypes.feature ?? (this.rootType === 'Feature' ? this.idTypes.root : null);
    if (type === null) return [];
    let name = 'id';
    for (let n = 0; this.fields.has(name); n++) name = n === 0 ? 'feature_id' : `feature_id_${n}`;
    return [{ name, type, isFeatureId: true }];
  }

  private noteId(type: FieldType): void {
    const top = this.top();
    if (this.lastKey === 'id' && (top === 'feature' || top === 'root')) this.idTypes[top] = widest(this.idTypes[top], type);
  }

  private top(): Role | undefined {
    return this.roles[this.roles.length - 1];
  }

  private roleOf(isArray: boolean): Role {
    const parent = this.top();
    const key = this.lastKey;
    if (parent === undefined) return this.arrangement === 'sequence' ? 'feature' : 'root';
    if (parent === 'coordinates') return 'coordinates';
    if (parent === 'features') return 'feature';
    if (parent === 'geometries') return 'geometry';
    if (parent === 'root' || parent === 'feature' || parent === 'geometry') {
      if (key === 'coordinates' && isArray) return 'coordinates';
      if (key === 'geometries' && isArray) return 'geometries';
      if (parent === 'root' && key === 'features' && isArray) return 'features';
      if (parent !== 'geometry' && key === 'geometry' && !isArray) return 'geometry';
      if (parent !== 'geometry' && key === 'properties' && !isArray) return 'properties';
      if (parent === 'root' && key === 'crs' && !isArray) return 'crs';
    }
    return parent === 'crs' && key === 'properties' ? 'crs-properties' : 'other';
  }

  private enter(isArray: boolean): void {
    const role = this.roleOf(isArray);
    if (role === 'feature') this.features++;
    if (this.top() === 'properties') this.note('json');
    this.roles.push(role);
    this.keys.push(this.lastKey);
    this.lastKey = null;
    this.position = [];
  }

  startObject(): void {
    this.enter(false);
  }
  startArray(): void {
    this.enter(true);
  }
  endObject(): void {
    this.leave();
  }
  endArray(): void {
    if (this.top() === 'coordinates' && this.position.length >= 2) this.vertex();
    this.leave();
  }
  private leave(): void {
    this.position = [];
    this.roles.pop();
    this.lastKey = this.keys.pop() ?? null;
  }
  key(name: string): void {
    this.lastKey = name;
  }
  string(value: string): void {
    const top = this.top();
    if (this.lastKey === 'type' && top === 'root') this.setType(value, true);
    else if (this.lastKey === 'type' && (top === 'geometry' || top === 'feature')) this.setType(value, false);
    else if (top === 'properties') this.note('text');
    else if (this.lastKey === 'id') this.noteId('text');
    else if (top === 'crs-properties' && (this.lastKey === 'name' || this.lastKey === 'href')) this.crsName = value;
    else if (top === 'crs-properties' && this.lastKey === 'code') this.crsName = `EPSG:${value}`;
  }
  number(value: number): void {
    const top = this.top();
    if (top === 'coordinates') {
      if (this.position.length < 4) this.position.push(value);
    } else if (top === 'crs-properties') {
      if (this.lastKey === 'code') this.crsName = `EPSG:${value}`;
    } else if (top === 'properties') this.note(typeOf(value));
    else if (this.lastKey === 'id') this.noteId(typeOf(value));
  }
  literal(value: boolean | null): void {
    if (this.top() === 'properties') this.note(value === null ? null : 'boolean');
    else if (this.top() === 'root' && this.lastKey === 'crs' && value === null) this.isCrsDenied = true;
  }

  private setType(value: string, root: boolean): void {
    if (root) this.rootType = value;
    if (GEOMETRIES.has(value)) this.geometryTypes.add(value);
    else if (this.arrangement === 'sequence' && value === 'FeatureCollection') this.isListInSequence = true;
  }

  private vertex(): void {
    const [x, y] = this.position as [number, number];
    this.vertices++;
    if (this.position.length > 2) this.hasZ = true;
    const e = this.extent;
    if (!e) this.extent = [x, y, x, y];
    else {
      if (x < e[0]) e[0] = x;
      if (y < e[1]) e[1] = y;
      if (x > e[2]) e[2] = x;
      if (y > e[3]) e[3] = y;
    }
    this.onVertex?.(x, y);
  }

  private note(type: FieldType | null): void {
    const name = this.lastKey;
    if (name === null || (this.fields.size >= MOST_FIELDS && !this.fields.has(name))) return;
    const before = this.fields.get(name) ?? null;
    this.fields.set(name, widest(before, type));
  }
}

/** A whole number beyond 64 bits is no whole number to a table. */
function typeOf(value: number): FieldType {
  if (!Number.isInteger(value) || Math.abs(value) >= 2 ** 63) return 'real';
  return Math.abs(value) < 2 ** 31 ? 'integer' : 'integer64';
}

const NUMERIC: readonly FieldType[] = ['integer', 'integer64', 'real'];
function widest(a: FieldType | null, b: FieldType | null): FieldType | null {
  if (a === null || b === null || a === b) return a ?? b;
  const i = NUMERIC.indexOf(a);
  const j = NUMERIC.indexOf(b);
  return i >= 0 && j >= 0 ? NUMERIC[Math.max(i, j)]! : 'text';
}
