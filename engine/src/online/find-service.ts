import {
  belowService,
  EMPTY_ITEM,
  isTilePicture,
  MOST_ITEMS,
  ProblemError,
  readCollections,
  readLanding,
  readPage,
  readRecords,
  readWmsCapabilities,
  serviceAddress,
  tileAddress,
  urlOf,
  wmsCapabilitiesAddress,
  withoutSecrets,
  type ServiceItem,
  type ServiceTree,
  type TileAt,
} from '@rootmap/core';
import { noService } from '../wire/wire-problem.js';
import type { AskOptions, SignIn, Wire } from '../wire/wire.js';
import { askJson, JSON_ACCEPT, jsonOf, onSameServer } from './read-json.js';

export interface FoundService {
  readonly url: string;
  readonly tree: ServiceTree;
}

/** An address as people paste it: with spaces around it, without a scheme. Throws `wrong-use`. */
export function pastedAddress(text: string): string {
  const trimmed = text.trim().replace(/^<|>$/g, '');
  const address = /^[a-z][a-z0-9+.-]*:\/\//i.test(trimmed) ? trimmed : `https://${trimmed}`;
  if (!urlOf(address) || !/^[^/]*\/\/[^/]*[a-z0-9\]]/i.test(address))
    throw new ProblemError({
      code: 'wrong-use',
      message: `"${trimmed.replace(/[^/@]*@/, '…@').slice(0, 200)}" is no address of a server. Write it as https://host/path, or paste what the publisher gives.`,
    });
  return address;
}

/** Name, password or key that somebody pasted inside an address, taken out of it. */
export function signInOf(address: string): SignIn | null {
  const url = new URL(address);
  if (url.username !== '' || url.password !== '')
    return { kind: 'password', name: decodeURIComponent(url.username), password: decodeURIComponent(url.password) };
  const kept = new URL(withoutSecrets(address));
  const name = [...url.searchParams.keys()].find((n) => !kept.searchParams.has(n));
  return name === undefined ? null : { kind: 'key', as: 'query', name, key: url.searchParams.get(name)! };
}

/**
 * What stands at an address that somebody pasted, whole or in part: a tile set, an OGC API, a WMS. Throws what kept it from
 * being found out, in words.
 */
export async function findService(wire: Wire, address: string, options: AskOptions): Promise<FoundService> {
  const plain = withoutSecrets(address);
  if (/(\{|%7B)z/i.test(plain)) {
    const url = plain.replace(/%7B/gi, '{').replace(/%7D/gi, '}');
    return { url, tree: await tilesAt(wire, url, options) };
  }
  const looksLikeWms = /[?&](service=wms|request=getcapabilities|layers=)/i.test(plain) || /wms/i.test(new URL(plain).pathname);
  const ways = looksLikeWms ? [wmsAt, ogcApiAt] : [ogcApiAt, wmsAt];
  const faults: ProblemError[] = [];
  const url = serviceAddress(plain);
  for (const way of ways)
    try {
      return { url, tree: await way(wire, url, options) };
    } catch (error) {
      if (!(error instanceof ProblemError) || !isOfTheWay(error)) throw error;
      faults.push(error);
    }
  const first = faults[0]!.problem;
  const host = new URL(url).host;
  if (faults.every((f) => f.problem.code === 'no-service' && f.problem.trouble === 'gone')) throw faults[0]!;
  throw noService(
    host,
    'no-map-server',
    first.code === 'no-service' ? first.detail : first.code === 'wrong-shape' ? first.expected : undefined,
  );
}

/** The tree of a service of a kind that is known. */
export function treeOf(wire: Wire, kind: ServiceTree['kind'], url: string, options: AskOptions): Promise<ServiceTree> {
  if (kind === 'tiles') return tilesAt(wire, url, options);
  return kind === 'wms' ? wmsAt(wire, url, options) : ogcApiAt(wire, url, options);
}

/** It may be a server of another kind; anything else would come of any way. */
const isOfTheWay = ({ problem }: ProblemError): boolean =>
  problem.code === 'wrong-shape' ||
  (problem.code === 'no-service' && ['broken', 'no-map-server', 'gone', 'error'].includes(problem.trouble));

/** Capabilities are larger than other answers, yet not without end. */
const MOST_CAPABILITIES = 32 * 1024 * 1024;

async function wmsAt(wire: Wire, url: string, options: AskOptions): Promise<ServiceTree> {
  const answer = await wire.ask(wmsCapabilitiesAddress(url), {
    ...options,
    accept: 'text/xml, application/xml;q=0.9, */*;q=0.1',
    mostBytes: MOST_CAPABILITIES,
  });
  const read = readWmsCapabilities(url, answer.body);
  if (!read.ok) throw new ProblemError(read.problem);
  return read.value;
}

/** Levels of which a tile is tried; a tile set may begin further down than its first. */
const TRIED = [0, 1, 2, 6];
const middleOf = (z: number): TileAt => ({ z, x: (2 ** z) >> 1, y: (2 ** z) >> 1 });

/** Where tiles stand now, from where one of those that are tried was sent to; null: that cannot be told. */
export function movedTemplate(template: string, sentTo: string): string | null {
  const at = template.indexOf('{');
  for (const z of TRIED) {
    const tail = tileAddress(template, middleOf(z)).slice(at);
    if (sentTo.endsWith(tail)) return sentTo.slice(0, -tail.length) + template.slice(at);
  }
  return null;
}

async function tilesAt(wire: Wire, url: string, options: AskOptions): Promise<ServiceTree> {
  const host = new URL(url).host;
  let problem: ProblemError | null = null;
  for (const z of TRIED)
    try {
      const { body } = await wire.ask(tileAddress(url, middleOf(z)), options);
      if (!isTilePicture(body)) throw noService(host, 'broken', 'a tile that is no picture');
      problem = null;
      break;
    } catch (error) {
      if (!(error instanceof ProblemError) || error.problem.code !== 'no-service' || error.problem.trouble !== 'gone') throw error;
      problem ??= error;
    }
  if (problem) throw problem;
  const title = `Tiles of ${host}`;
  const item: ServiceItem = { ...EMPTY_ITEM, name: 'tiles', title, crs: ['EPSG:3857'], href: url };
  return { kind: 'tiles', title, description: '', publisher: null, version: null, items: [item], more: 0 };
}

async function ogcApiAt(wire: Wire, url: string, options: AskOptions): Promise<ServiceTree> {
  const begunMs = Date.now();
  const { tree, catalogues } = await collectionsAt(wire, url, options);
  const records: ServiceItem[] = [];
  let more = tree.more;
  for (const c of catalogues) {
    records.push({ ...EMPTY_ITEM, name: '', title: c.title, whyNot: 'it is a heading: choose what stands below it' });
    let came = 0;
    let matched: number | null = null;
    for await (const page of pagesOf(wire, itemsAddress(url, c.id, { limit: String(PAGE_OF_RECORDS) }), url, options)) {
      const read = readRecords(page.document, page.url);
      records.push(...read.map((r) => ({ ...r, below: [c.title] })));
      came += read.length;
      matched = page.matched ?? matched;
      if (records.length >= MOST_ITEMS || Date.now() - begunMs > CATALOGUE_MS) {
        more += page.next === null ? 0 : Math.max(matched === null ? 1 : 0, (matched ?? 0) - came);
        break;
      }
    }
  }
  const shown = tree.items.filter((i) => !catalogues.some((c) => c.id === i.name));
  const isCatalogue = shown.length === 0 && records.length > 0;
  return { ...tree, kind: isCatalogue ? 'records' : 'features', items: [...shown, ...records], more };
}

async function collectionsAt(wire: Wire, url: string, options: AskOptions) {
  const answer = await wire.ask(url, { ...options, accept: JSON_ACCEPT });
  const landing = readLanding(jsonOf(answer), answer.url);
  if (!landing) throw noService(new URL(url).host, 'no-map-server', 'its answer has no links, as a landing page has');
  const listed = await askJson(wire, onSameServer(landing.collections ?? belowService(url, 'collections'), url), options);
  const read = readCollections(url, listed.document, landing);
  if (!read.ok) throw new ProblemError(read.problem);
  return { tree: read.value, catalogues: collectionsOfRecords(listed.document) };
}

/** Records that a server's catalogues find by words: `q` of OGC 20-004r1, which each server reads in its own way. */
export async function searchRecords(wire: Wire, url: string, words: string, options: AskOptions): Promise<FoundRecords> {
  const { catalogues } = await collectionsAt(wire, url, options);
  const items: ServiceItem[] = [];
  let more = 0;
  for (const c of catalogues) {
    const { document, url: at } = await askJson(wire, itemsAddress(url, c.id, { limit: String(PAGE_OF_RECORDS), q: words }), options);
    const page = readPage(document, at);
    if (!page) throw noService(new URL(url).host, 'broken', 'a page without records');
    const read = readRecords(document, at).map((r) => ({ ...r, below: [c.title] }));
    items.push(...read);
    more += page.next === null ? 0 : Math.max(1, (page.matched ?? 0) - read.length);
  }
  return { items, more };
}

export interface FoundRecords {
  readonly items: readonly ServiceItem[];
  /** How many more the server found at least. */
  readonly more: number;
}

/** Nobody waits longer for a catalogue: what came until then is listed, and the rest is counted, and found by the server's own search. */
const CATALOGUE_MS = 4000;
const PAGE_OF_RECORDS = 500;

function itemsAddress(service: string, collection: string, parameters: Readonly<Record<string, string>>): string {
  const address = new URL(belowService(service, 'collections', collection, 'items'));
  for (const [name, value] of Object.entries(parameters)) address.searchParams.set(name, value);
  return address.href;
}

function collectionsOfRecords(document: unknown): { id: string; title: string }[] {
  const all = (document as { collections: { id?: unknown; title?: unknown; itemType?: unknown }[] }).collections;
  return all.flatMap((c) =>
    c?.itemType === 'record' && typeof c.id === 'string' ? [{ id: c.id, title: typeof c.title === 'string' ? c.title : c.id }] : [],
  );
}

/** More pages than this nobody waits for. */
const MOST_PAGES = 10_000;

export interface Page {
  readonly document: unknown;
  readonly url: string;
  readonly features: readonly Readonly<Record<string, unknown>>[];
  readonly matched: number | null;
  readonly next: string | null;
}

/** Pages of a collection, each once. Throws `broken` where they repeat, or lead to another server. */
export async function* pagesOf(wire: Wire, first: string, service: string, options: AskOptions): AsyncGenerator<Page> {
  const host = new URL(service).host;
  const seen = new Set<string>();
  const begin = (address: string): ReturnType<typeof askJson> => {
    if (seen.has(address) || seen.size >= MOST_PAGES) throw noService(host, 'broken', 'its pages lead round in a circle');
    seen.add(address);
    const asked = askJson(wire, address, options);
    asked.catch(() => undefined); // told when its turn comes; whoever stops before is not told
    return asked;
  };
  let lastIds = '';
  for (let coming: ReturnType<typeof askJson> | null = begin(first); coming !== null;) {
    const { document, url } = await coming;
    const page = readPage(document, url);
    if (!page) throw noService(host, 'broken', 'a page without features');
    const ids = JSON.stringify(page.features.slice(0, 50).map((f) => f['id'] ?? f));
    if (page.features.length > 0 && ids === lastIds) throw noService(host, 'broken', 'its pages repeat');
    lastIds = ids;
    // The next one is on its way while this one is used.
    coming = page.next === null || page.features.length === 0 ? null : begin(onSameServer(page.next, service));
    yield { document, url, ...page };
  }
}
