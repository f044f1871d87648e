/** Parameters of a request to a WMS: what is left of its address without them is the service's. Names are without case (OGC 06-042, 6.8.1). */
const OF_A_REQUEST = new Set(
  'service version request layers query_layers styles crs srs bbox width height format transparent bgcolor exceptions time elevation sld'.split(
    ' ',
  ),
);
const MOST_ADDRESS = 2048;

export function urlOf(text: string): URL | null {
  if (text.length > MOST_ADDRESS) return null;
  try {
    const url = new URL(text);
    return url.protocol === 'http:' || url.protocol === 'https:' ? url : null;
  } catch {
    return null;
  }
}

/** Address of the records of a collection (OGC 17-069r4, 7.15). */
export const isCollection = (address: string): boolean => /\/collections\/[^/?#]+\/items\/?(?:[?#]|$)/.test(address);

/**
 * The address of the service that an address belongs to: without what a single request adds to it (a WMS's parameters, the
 * collection of an OGC API, the tile of a tile set), without name, password and fragment. Two layers of one service have the
 * same. Text that is no address is given back as it is.
 */
export function serviceAddress(href: string): string {
  const url = urlOf(href);
  if (!url) return href;
  url.username = '';
  url.password = '';
  url.hash = '';
  const tile = /^(.*?)\/?(\{|%7B)[zxy-]/i.exec(url.pathname);
  if (tile) return withoutSlash(`${url.origin}${tile[1]!}`);
  const kept = [...url.searchParams].filter(([name]) => !OF_A_REQUEST.has(name.toLowerCase()) && !/^f$/i.test(name));
  // What follows the collections of an OGC API is of one request.
  const isOgcApi = /\/collections(\/|$)/.test(url.pathname);
  const path = url.pathname.replace(/\/(collections(\/.*)?|conformance)$/, '');
  const query = kept.length > 0 && !isOgcApi ? `?${new URLSearchParams(kept).toString()}` : '';
  return `${withoutSlash(url.origin + path)}${query}`;
}

/** The last name in the path of an address, as people read it; '' where there is none. */
export const lastNameOf = (href: string): string => decoded(urlOf(href)?.pathname.split('/').filter(Boolean).at(-1) ?? '');

/** An address below a service; what its address asks for besides stays behind. */
export function belowService(service: string, ...names: readonly string[]): string {
  const url = new URL(service);
  url.pathname = `${withoutSlash(url.pathname)}/${names.map(encodeURIComponent).join('/')}`;
  return url.href;
}

const withoutSlash = (text: string): string => text.replace(/\/+$/, '');

/** Names of what a layer draws of its service: `LAYERS` of a WMS, the collection of an OGC API; [] where its address names none. */
export function layerNamesOf(href: string): string[] {
  const url = urlOf(href);
  if (!url) return [];
  const collection = /\/collections\/([^/]+)(\/items)?\/?$/.exec(url.pathname)?.[1];
  if (collection !== undefined) return [decoded(collection)];
  const layers = [...url.searchParams].find(([name]) => name.toLowerCase() === 'layers')?.[1];
  return layers ? layers.split(',') : [];
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

export type ServiceKind = 'wms' | 'features' | 'tiles';

/** What an address of a layer is drawn as; null: it does not say. */
export function kindOfAddress(href: string): ServiceKind | null {
  if (/(\{|%7B)[xyz-]/i.test(href)) return 'tiles';
  const url = urlOf(href);
  if (!url) return null;
  if (/\/collections(\/|$)/.test(url.pathname)) return 'features';
  const service = [...url.searchParams].find(([name]) => name.toLowerCase() === 'service')?.[1];
  return service?.toLowerCase() === 'wms' || [...url.searchParams.keys()].some((k) => k.toLowerCase() === 'layers') ? 'wms' : null;
}
