import { memorySource } from '../bytes/byte-source.js';
import { fail, done, type Result } from '../problem.js';
import { readXml } from '../xml/read-xml.js';
import { crsNamed, degreesOf, EMPTY_ITEM, MOST_ITEMS, type ServiceItem, type ServiceTree } from './service-tree.js';

interface Element {
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: Element[];
  text: string;
}

/** Layers may stand in layers; deeper than this nobody means it. */
const DEEPEST = 100;

/**
 * What a WMS offers, from the bytes of its capabilities (OGC 01-068r3 for 1.1.1, OGC 06-042 for 1.3.0). Never throws.
 * @param service address of the service, without parameters of a request
 */
export function readWmsCapabilities(service: string, bytes: Uint8Array): Result<ServiceTree> {
  const wrong = (expected: string) => fail({ code: 'wrong-shape', file: service, member: 'capabilities', expected });
  const stack: Element[] = [{ name: '', attributes: {}, children: [], text: '' }];
  let tooDeep = false;
  const fault = readXml(memorySource(bytes), {
    open: (name, attributes) => {
      const element: Element = { name, attributes, children: [], text: '' };
      if (stack.length < DEEPEST) stack.at(-1)!.children.push(element);
      else tooDeep = true;
      stack.push(element);
    },
    text: (text) => void (stack.at(-1)!.text += text),
    close: () => void stack.pop(),
  });
  if (fault !== null) return wrong(`XML that can be read: ${fault}`);
  const root = stack[0]!.children[0];
  if (!root || !['WMS_Capabilities', 'WMT_MS_Capabilities'].includes(root.name))
    return wrong(`capabilities of a map server; it begins with ${root ? `"${root.name}"` : 'nothing'}`);
  if (tooDeep) return wrong(`layers that stand no deeper than ${DEEPEST} in one another`);
  const top = child(root, 'Service');
  const version = root.attributes['version'] ?? null;
  const contact = child(child(child(top, 'ContactInformation'), 'ContactPersonPrimary'), 'ContactOrganization');
  const publisher = textOf(contact);
  const limits = { access: textOf(child(top, 'AccessConstraints')), publisher };
  const all: ServiceItem[] = [];
  for (const layer of childrenOf(child(root, 'Capability'), 'Layer')) gather(layer, NOTHING_ABOVE, { service, version, ...limits }, all);
  return done({
    kind: 'wms',
    title: textOf(child(top, 'Title')) ?? textOf(child(top, 'Name')) ?? service,
    description: textOf(child(top, 'Abstract')) ?? '',
    publisher,
    version,
    items: all.slice(0, MOST_ITEMS),
    more: Math.max(0, all.length - MOST_ITEMS),
  });
}

const childrenOf = (e: Element | undefined, name: string): Element[] => e?.children.filter((c) => c.name === name) ?? [];
const child = (e: Element | undefined, name: string): Element | undefined => e?.children.find((c) => c.name === name);
const textOf = (e: Element | undefined): string | null => e?.text.trim().replace(/\s+/g, ' ') || null;

interface Above {
  readonly below: readonly string[];
  readonly crs: readonly string[];
  readonly degrees: ServiceItem['degrees'];
  readonly attribution: string | null;
  readonly isQueryable: boolean;
}
const NOTHING_ABOVE: Above = { below: [], crs: [], degrees: null, attribution: null, isQueryable: false };

interface OfAll {
  readonly service: string;
  readonly version: string | null;
  readonly publisher: string | null;
  readonly access: string | null;
}

/** A layer and those in it; CRSs add to those above, extent and attribution replace them (OGC 06-042, 7.2.4.8). */
function gather(layer: Element, above: Above, all: OfAll, into: ServiceItem[]): void {
  const name = textOf(child(layer, 'Name')) ?? '';
  const title = textOf(child(layer, 'Title')) ?? name;
  const own = [...childrenOf(layer, 'CRS'), ...childrenOf(layer, 'SRS')].flatMap((e) => (textOf(e) ?? '').split(/\s+/)).filter(Boolean);
  const attribution = child(layer, 'Attribution');
  const queryable = layer.attributes['queryable'];
  const here: Above = {
    below: [...above.below, title],
    crs: [...new Set([...above.crs, ...own.map(crsNamed)])],
    degrees: degreesOfLayer(layer) ?? above.degrees,
    attribution: textOf(child(attribution, 'Title')) ?? above.attribution,
    isQueryable: queryable === undefined ? above.isQueryable : ['1', 'true'].includes(queryable),
  };
  into.push({
    ...EMPTY_ITEM,
    name,
    title,
    below: above.below,
    description: textOf(child(layer, 'Abstract')) ?? '',
    keywords: childrenOf(child(layer, 'KeywordList'), 'Keyword').flatMap((k) => textOf(k) ?? []),
    publisher: here.attribution ?? all.publisher,
    attribution: here.attribution,
    use: here.isQueryable ? 'query' : 'picture',
    crs: here.crs,
    degrees: here.degrees,
    access: all.access,
    href: name === '' ? null : wmsLayerAddress(all.service, name, all.version),
    whyNot: name === '' ? 'it is a heading: choose what stands below it' : null,
  });
  for (const inner of childrenOf(layer, 'Layer')) gather(inner, here, all, into);
}

function degreesOfLayer(layer: Element): ServiceItem['degrees'] {
  const box = child(layer, 'EX_GeographicBoundingBox');
  if (box)
    return degreesOf(
      ['westBoundLongitude', 'southBoundLatitude', 'eastBoundLongitude', 'northBoundLatitude'].map((n) => textOf(child(box, n))),
    );
  const old = child(layer, 'LatLonBoundingBox')?.attributes;
  return old ? degreesOf([old['minx'], old['miny'], old['maxx'], old['maxy']]) : null;
}

const joinedBy = (service: string): string => (service.includes('?') ? '&' : '?');

/** What a map stores of a layer of a WMS. Common practice: the address of the service with what it is to draw. */
export const wmsLayerAddress = (service: string, name: string, version: string | null): string =>
  `${service}${joinedBy(service)}SERVICE=WMS&VERSION=${version?.startsWith('1.1') ? '1.1.1' : '1.3.0'}&LAYERS=${encodeURIComponent(name)}`;

export const wmsCapabilitiesAddress = (service: string, version?: string): string =>
  `${service}${joinedBy(service)}SERVICE=WMS&REQUEST=GetCapabilities${version ? `&VERSION=${version}` : ''}`;

/** CRSs whose first axis runs east in EPSG's registry, so that a box is asked for as x, y in every version. */
export const isEastFirst = (crs: string): boolean => {
  const code = Number(/^EPSG:(\d+)$/.exec(crs)?.[1]);
  if (crs === 'CRS:84') return true;
  return (
    code === 3857 ||
    (code >= 32601 && code <= 32660) ||
    (code >= 32701 && code <= 32760) ||
    (code >= 25828 && code <= 25837) ||
    (code >= 26901 && code <= 26923)
  );
};

export interface PictureRequest {
  /** `EPSG:n`; east first (`isEastFirst`), or EPSG:4326. */
  readonly crs: string;
  /** x before y, whatever the CRS says: for EPSG:4326 west, south, east, north. */
  readonly box: readonly [number, number, number, number];
  readonly width: number;
  readonly height: number;
}

/**
 * The request for a picture of a layer. In 1.3.0 a box in EPSG:4326 is asked for as south, west, north, east (OGC 06-042,
 * 6.7.2 and 6.7.4: axes in the order of the CRS); in 1.1.1 always x before y (OGC 01-068r3, 6.5.5).
 * @param layer address of the layer, as a map stores it
 */
export function wmsPictureAddress(layer: string, { crs, box, width, height }: PictureRequest): string {
  const url = new URL(layer);
  const given = new Map([...url.searchParams].map(([k, v]) => [k.toUpperCase(), v]));
  const isOld = (given.get('VERSION') ?? '1.3.0').startsWith('1.1');
  const [w, s, e, n] = box;
  const isTurned = !isOld && crs === 'EPSG:4326';
  const asked: Record<string, string> = {
    SERVICE: 'WMS',
    VERSION: isOld ? '1.1.1' : '1.3.0',
    REQUEST: 'GetMap',
    LAYERS: given.get('LAYERS') ?? '',
    STYLES: given.get('STYLES') ?? '',
    [isOld ? 'SRS' : 'CRS']: crs,
    BBOX: (isTurned ? [s, w, n, e] : [w, s, e, n]).join(','),
    WIDTH: String(width),
    HEIGHT: String(height),
    FORMAT: given.get('FORMAT') ?? 'image/png',
    TRANSPARENT: 'TRUE',
    EXCEPTIONS: isOld ? 'application/vnd.ogc.se_xml' : 'XML',
  };
  for (const name of [...url.searchParams.keys()])
    if (name.toUpperCase() in asked || /^(CRS|SRS)$/i.test(name)) url.searchParams.delete(name);
  for (const [name, value] of Object.entries(asked)) url.searchParams.set(name, value);
  return url.href;
}
