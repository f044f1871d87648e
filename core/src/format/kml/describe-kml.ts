import { crsOfCode, type CrsTable } from '../../crs/identify.js';
import { memorySource, type ByteSource } from '../../bytes/byte-source.js';
import { emptyDescription, unreadable, type Description, type Field, type FileGroup } from '../../dataset/dataset.js';
import { unpackMembers } from '../../unpack/unpack-members.js';
import { ExtentOf, readXml } from '../../xml/read-xml.js';

/** OGC 12-007r2 (KML 2.3): geometry elements, and the types of a Schema's SimpleField. */
const GEOMETRY: Readonly<Record<string, string>> = {
  Point: 'Point',
  LineString: 'LineString',
  LinearRing: 'LineString',
  Polygon: 'Polygon',
  Track: 'LineString',
};
const TYPES: Readonly<Record<string, Field['type']>> = {
  string: 'text',
  int: 'integer',
  uint: 'integer',
  short: 'integer',
  ushort: 'integer',
  float: 'real',
  double: 'real',
  bool: 'boolean',
};
const MOST_COORDINATES = 1 << 24;

class Folder {
  count = 0;
  readonly extent = new ExtentOf();
  readonly types = new Set<string>();
  readonly fields = new Map<string, Field['type']>();
}

/** Placemarks by the folder that they are in; where there is one folder only, the file is one dataset. */
export function describeKml(group: FileGroup, open: (path: string) => ByteSource, crs: CrsTable): Description[] {
  const reader = new KmlReader();
  const source = /\.kmz$/i.test(group.path) ? unpacked(open(group.path)) : open(group.path);
  const fault = source ? readXml(source, reader) : 'it is no zip with a .kml in it';
  if (fault !== null || !reader.isKml)
    return [unreadable('vector', `${group.path} cannot be read as KML: ${fault ?? 'it begins otherwise'}.`)];
  const folders = [...reader.folders].filter(([, f]) => f.count > 0);
  const describe = (table: string | null, f: Folder): Description => ({
    ...emptyDescription('vector'),
    table,
    geometryType: geometryOf(f.types),
    featureCount: f.count,
    fields: [...f.fields].map(([name, type]) => ({ name, type })),
    crs: crsOfCode('EPSG:4326', crs),
    bbox: f.extent.bbox,
  });
  if (folders.length <= 1) return [describe(null, folders[0]?.[1] ?? new Folder())];
  return folders.map(([path, f]) => describe(path || reader.title || 'placemarks', f));
}

/** A KMZ is a zip; its first .kml is the one that is meant (OGC 12-007r2, annex C). */
function unpacked(source: ByteSource): ByteSource | null {
  let isFound = false;
  const members = unpackMembers(source, (name) => !isFound && (isFound = /\.kml$/i.test(name)));
  const [bytes] = members ? [...members.values()] : [];
  return bytes ? memorySource(bytes) : null;
}

function geometryOf(types: ReadonlySet<string>): string | null {
  if (types.size === 0) return null;
  return types.size === 1 ? [...types][0]! : 'Geometry';
}

class KmlReader {
  readonly folders = new Map<string, Folder>([['', new Folder()]]);
  isKml = false;
  title = '';
  private readonly path: string[] = [];
  private readonly names: string[] = [];
  private readonly schema = new Map<string, Field['type']>();
  private placemark: Folder | null = null;
  private depthOfGeometry = 0;
  private isMulti = false;
  private text_ = '';

  private get folder(): Folder {
    const key = this.names.join('/');
    let folder = this.folders.get(key);
    if (!folder) this.folders.set(key, (folder = new Folder()));
    return folder;
  }

  open(name: string, attributes: Readonly<Record<string, string>>): void {
    if (this.path.length === 0) this.isKml = name === 'kml';
    this.path.push(name);
    this.text_ = '';
    if (name === 'Folder') this.names.push(`folder_${this.names.length + 1}`);
    if (name === 'Placemark') {
      this.placemark = this.folder;
      this.placemark.count++;
    }
    if (name === 'SimpleField' && attributes['name']) this.schema.set(attributes['name'], TYPES[attributes['type'] ?? ''] ?? 'text');
    if (!this.placemark) return;
    const own = attributes['name'];
    if ((name === 'Data' || name === 'SimpleData') && own) this.placemark.fields.set(own, this.schema.get(own) ?? 'text');
    if (name === 'MultiGeometry') this.isMulti = true;
    else if (GEOMETRY[name] && this.depthOfGeometry++ === 0) this.placemark.types.add((this.isMulti ? 'Multi' : '') + GEOMETRY[name]);
  }

  text(text: string): void {
    if (this.text_.length < MOST_COORDINATES) this.text_ += text;
  }

  close(name: string): void {
    this.path.pop();
    const parent = this.path.at(-1);
    const text = this.text_.trim();
    this.text_ = '';
    if (name === 'name' && parent === 'Folder' && text) this.names[this.names.length - 1] = text.replaceAll('/', '_');
    if (name === 'name' && parent === 'Document') this.title = text;
    if ((name === 'name' || name === 'description') && parent === 'Placemark') this.placemark?.fields.set(name, 'text');
    if (name === 'Folder') this.names.pop();
    if (name === 'coordinates' || name === 'coord') this.coordinates(text, name === 'coord' ? /\s+/ : /,/);
    if (GEOMETRY[name] && this.depthOfGeometry > 0) this.depthOfGeometry--;
    if (name === 'MultiGeometry') this.isMulti = false;
    if (name === 'Placemark') this.placemark = null;
  }

  private coordinates(text: string, between: RegExp): void {
    if (!this.placemark) return;
    const tuples = between.source === ',' ? text.split(/\s+/) : [text];
    for (const tuple of tuples) {
      const [x, y] = tuple.split(between).map(Number);
      if (x !== undefined && y !== undefined) this.placemark.extent.add(x, y);
    }
  }
}
