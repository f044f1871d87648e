import { done, fail, type Result } from '../problem.js';
import { belowService } from './service-address.js';
import { crsNamed, degreesOf, EMPTY_ITEM, MOST_ITEMS, type ServiceItem, type ServiceTree } from './service-tree.js';

type Json = Readonly<Record<string, unknown>>;

const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);
const objects = (v: unknown): Json[] => (Array.isArray(v) ? v.filter(isObject) : []);
const text = (v: unknown): string | null => (typeof v === 'string' && v.trim() !== '' ? v.trim() : null);
const texts = (v: unknown): string[] => (Array.isArray(v) ? v.flatMap((t) => text(t) ?? []) : []);

export interface Link {
  readonly href: string;
  readonly rel: string;
  readonly type: string | null;
  readonly title: string | null;
}
/** The links of a document, their addresses made whole. A link that is no address is left out. */
export function linksOf(document: unknown, base: string): Link[] {
  if (!isObject(document)) return [];
  return objects(document['links']).flatMap((l) => {
    const href = text(l['href']);
    if (href === null) return [];
    try {
      return [{ href: new URL(href, base).href, rel: text(l['rel']) ?? '', type: text(l['type']), title: text(l['title']) }];
    } catch {
      return [];
    }
  });
}

/** What a landing page says of the whole (OGC 17-069r4, 7.2). Null: it is none. */
export function readLanding(document: unknown, base: string): { title: string; description: string; collections: string | null } | null {
  if (!isObject(document) || !Array.isArray(document['links'])) return null;
  const collections = linksOf(document, base).find((l) => l.rel === 'data' || l.rel === 'http://www.opengis.net/def/rel/ogc/1.0/data');
  return { title: text(document['title']) ?? '', description: text(document['description']) ?? '', collections: collections?.href ?? null };
}

/** The collections that a server offers (OGC 17-069r4, 7.13 and 7.14). Never throws. */
export function readCollections(service: string, document: unknown, about: { title: string; description: string }): Result<ServiceTree> {
  if (!isObject(document) || !Array.isArray(document['collections']))
    return fail({ code: 'wrong-shape', file: service, member: 'collections', expected: 'a list, as in OGC API Features' });
  const all = objects(document['collections']);
  const shared = texts(document['crs']);
  const items = all.slice(0, MOST_ITEMS).flatMap((c): ServiceItem[] => {
    const name = text(c['id']);
    if (name === null) return [];
    const spatial = isObject(c['extent']) && isObject(c['extent']['spatial']) ? c['extent']['spatial'] : {};
    const boxes = Array.isArray(spatial['bbox']) ? (spatial['bbox'] as unknown[]) : [];
    const itemType = text(c['itemType']) ?? 'feature';
    const named = texts(c['crs']).flatMap((crs) => (crs === '#/crs' ? shared : [crs]));
    const licence = linksOf(c, service).find((l) => l.rel === 'license');
    return [
      {
        ...EMPTY_ITEM,
        name,
        title: text(c['title']) ?? name,
        description: text(c['description']) ?? '',
        keywords: texts(c['keywords']),
        publisher: text(c['publisher']) ?? text(c['attribution']),
        attribution: text(c['attribution']),
        licence: licence?.title ?? licence?.href ?? text(c['license']),
        use: 'copyable',
        crs: (named.length > 0 ? named : ['http://www.opengis.net/def/crs/OGC/1.3/CRS84']).map(crsNamed),
        degrees: Array.isArray(boxes[0]) ? degreesOf(boxes[0]) : null,
        changed: text(c['updated']),
        often: text(c['accrualPeriodicity']) ?? text(c['updateFrequency']),
        access: text(c['accessRights']),
        href: itemType === 'feature' ? belowService(service, 'collections', name, 'items') : null,
        whyNot: itemType === 'feature' ? null : `it holds ${itemType === 'record' ? 'records of a catalogue' : itemType}, no shapes`,
      },
    ];
  });
  return done({
    kind: 'features',
    title: about.title || service,
    description: about.description,
    publisher: null,
    version: null,
    items,
    more: Math.max(0, all.length - MOST_ITEMS),
  });
}

/** Rels by which a record leads to what it tells of. OGC 20-004r1, 7.1 and IANA's register of link relations. */
const DATA_RELS = ['item', 'items', 'enclosure', 'data', 'http://www.opengis.net/def/rel/ogc/1.0/data'];

/** Records of a catalogue (OGC 20-004r1, OGC API Records) as what can be brought in. */
export function readRecords(document: unknown, base: string): ServiceItem[] {
  if (!isObject(document)) return [];
  return objects(document['features']).flatMap((record, i): ServiceItem[] => {
    const p = isObject(record['properties']) ? record['properties'] : {};
    const name = text(record['id']) ?? (typeof record['id'] === 'number' ? String(record['id']) : `#${i}`);
    const links = linksOf(record, base).filter((l) => DATA_RELS.includes(l.rel));
    const target = links.map((l) => ({ ...l, as: useOf(l) })).find((l) => l.as !== null) ?? null;
    const contacts = objects(p['contacts']);
    return [
      {
        ...EMPTY_ITEM,
        name,
        title: text(p['title']) ?? name,
        description: text(p['description']) ?? '',
        keywords: texts(p['keywords']),
        publisher: text(contacts[0]?.['organization']) ?? text(contacts[0]?.['name']),
        attribution: text(p['attribution']),
        licence: text(p['license']),
        use: target?.as ?? 'picture',
        crs: target?.as === 'copyable' ? ['CRS:84'] : [],
        degrees: boxOfGeometry(record['geometry']),
        changed: text(p['updated']),
        often: text(p['accrualPeriodicity']) ?? text(p['updateFrequency']),
        access: text(p['accessRights']) ?? text(p['rights']),
        href: target?.href ?? null,
        whyNot:
          target === null
            ? 'its record leads to nothing that can be drawn or fetched'
            : target.as === 'file'
              ? 'it is a file: fetch it in Bring in'
              : null,
      },
    ];
  });
}

function useOf({ href, type }: Link): ServiceItem['use'] | null {
  if (/\/collections\/[^/]+\/items\/?(\?|$)/.test(href)) return 'copyable';
  if (/[?&]layers=/i.test(href) || /(\{|%7B)z/i.test(href)) return 'picture';
  if (/\.(zip|gpkg|geojson|json|csv|kml|kmz|gpx|tif|tiff|shp|fgb|xlsx|7z|tar|tgz|gz)(\?|$)/i.test(href)) return 'file';
  return type !== null && /zip|geo\+json|geopackage|csv|tiff/.test(type) ? 'file' : null;
}

function boxOfGeometry(geometry: unknown): ServiceItem['degrees'] {
  if (!isObject(geometry)) return null;
  const points: number[][] = [];
  const walk = (v: unknown, depth: number): void => {
    if (!Array.isArray(v) || depth > 6) return;
    if (typeof v[0] === 'number' && typeof v[1] === 'number') points.push([v[0], v[1]]);
    else for (const inner of v as unknown[]) walk(inner, depth + 1);
  };
  walk(geometry['coordinates'], 0);
  if (points.length === 0) return null;
  const [xs, ys] = [points.map((p) => p[0]!), points.map((p) => p[1]!)];
  return degreesOf([Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]);
}

/** A page of records or features: what it holds, and where the next one is. Null: it is no page. */
export function readPage(
  document: unknown,
  base: string,
): { features: readonly Json[]; next: string | null; matched: number | null } | null {
  if (!isObject(document) || !Array.isArray(document['features'])) return null;
  const matched = document['numberMatched'];
  return {
    features: objects(document['features']),
    next: linksOf(document, base).find((l) => l.rel === 'next')?.href ?? null,
    matched: typeof matched === 'number' && matched >= 0 ? matched : null,
  };
}
