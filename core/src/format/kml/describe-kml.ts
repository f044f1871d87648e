import { crsOfCode } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
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
/** Elements that hold several geometries. */
export const MULTIS: ReadonlySet<string> = new Set(['MultiGeometry', 'MultiTrack']);
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
  const { reader, fault } = readAll(group, open);
  if (fault !== null) return [unreadable('vector', `${group.path} cannot be read as KML: ${fault}.`)];
  const folders = [...tablesOf(reader)];
  const describe = (table: string | null, f: Folder): Description => ({
    ...emptyDescription('vector'),
    table,
    geometryType: geometryOf(f.types),
    featureCount: f.count,
    fields: [...f.fields].map(([name, type]) => ({ name, type })),
    crs: crsOfCode('EPSG:4326', crs),
    bbox: f.extent.bbox,
  });
  if (folders.length <= 1) return [describe(null, folders[0] ? reader.folders.get(folders[0][1])! : new Folder())];
  return folders.map(([table, path]) => describe(table, reader.folders.get(path)!));
}

/** Names of the tables with the paths of their folders: those that have placemarks. */
const tablesOf = (reader: KmlReader): Map<string, string> =>
  new Map([...reader.folders].filter(([, f]) => f.count > 0).map(([path]) => [path || reader.title || 'placemarks', path]));

/** Paths of the folders by the names of their tables, of a file that was described without fault. */
export const describedFolders = (group: FileGroup, open: (path: string) => ByteSource): Map<string, string> =>
  tablesOf(readAll(group, open).reader);

function readAll(group: FileGroup, open: (path: string) => ByteSource): { reader: KmlReader; fault: string | null } {
  const reader = new KmlReader();
  const texts = openKml(group, open);
  let fault = texts.length === 0 ? 'it is no zip with a .kml in it' : null;
  for (const { source, folder } of texts) {
    reader.begin(folder);
    fault ??= readXml(source, reader);
    if (!reader.isKml) fault ??= 'it begins otherwise';
  }
  return { reader, fault };
}

export interface KmlText {
  readonly source: ByteSource;
  /** Folder that stands for the text; null: it is the first. */
  readonly folder: string | null;
}

/**
 * The KML of a file. A KMZ is a zip: its first .kml is the one that is meant, and those members that its network links name
 * belong to it, each as a folder (OGC 12-007r2, annex C and clause 13.1). None: a KMZ without any.
 */
export function openKml(group: FileGroup, open: (path: string) => ByteSource): KmlText[] {
  if (!/\.kmz$/i.test(group.path)) return [{ source: open(group.path), folder: null }];
  const members = unpackMembers(open(group.path), (name) => /\.kml$/i.test(name));
  const [first] = members ? [...members.values()] : [];
  if (!members || !first) return [];
  const linked = linksIn(first).flatMap((href): KmlText[] => {
    const bytes = members.get(href.replace(/^\.\//, ''));
    return bytes ? [{ source: memorySource(bytes), folder: href.replace(/^.*\//, '').replace(/\.kml$/i, '') }] : [];
  });
  return [{ source: memorySource(first), folder: null }, ...linked];
}

function linksIn(text: Uint8Array): string[] {
  const links: string[] = [];
  const path: string[] = [];
  let words = '';
  readXml(memorySource(text), {
    open: (name) => {
      path.push(name);
      words = '';
    },
    text: (more) => (words += more),
    close: (name) => {
      path.pop();
      if (name === 'href' && path.includes('NetworkLink')) links.push(words.trim());
      words = '';
    },
  });
  return links;
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
  private multis = 0;
  private text_ = '';

  /** Another text begins. */
  begin(folder: string | null): void {
    this.path.length = 0;
    this.names.length = 0;
    if (folder !== null) this.names.push(folder);
  }

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
    if (MULTIS.has(name)) {
      if (++this.multis > 1) this.placemark.types.add('GeometryCollection');
    } else if (GEOMETRY[name] && this.depthOfGeometry++ === 0) this.placemark.types.add((this.multis > 0 ? 'Multi' : '') + GEOMETRY[name]);
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
    if (MULTIS.has(name) && this.multis > 0) this.multis--;
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
