/** What a server offers, each thing once, in the order in which the server tells it. */
export interface ServiceTree {
  readonly kind: 'wms' | 'features' | 'tiles' | 'records';
  readonly title: string;
  readonly description: string;
  readonly publisher: string | null;
  /** Version of the standard that it speaks, as it says so. */
  readonly version: string | null;
  readonly items: readonly ServiceItem[];
  /** How many more there are than are listed. */
  readonly more: number;
}

/** What can be done with a thing that is offered: looked at, asked at a place, or taken along as records. */
export type ItemUse = 'picture' | 'query' | 'copyable' | 'file';

export interface ServiceItem {
  /** Name by which the server knows it, unlike all others; '' where it is a heading only. */
  readonly name: string;
  readonly title: string;
  /** Titles of what it stands below. */
  readonly below: readonly string[];
  readonly description: string;
  readonly keywords: readonly string[];
  readonly publisher: string | null;
  readonly attribution: string | null;
  readonly licence: string | null;
  readonly use: ItemUse;
  /** Codes (`EPSG:n`, `CRS:84`) in which it is given. */
  readonly crs: readonly string[];
  /** West, south, east, north in degrees; null: not told. */
  readonly degrees: readonly [number, number, number, number] | null;
  /** As the server tells it: RFC 3339, or a date. */
  readonly changed: string | null;
  /** How often it changes, in the server's words. */
  readonly often: string | null;
  /** Who may see it, in the server's words. */
  readonly access: string | null;
  /** Address that a layer of a map stores; null: it cannot be drawn. */
  readonly href: string | null;
  /** A clause: why it cannot be brought into a map; null: it can. */
  readonly whyNot: string | null;
}

export const EMPTY_ITEM: Omit<ServiceItem, 'name' | 'title'> = {
  below: [],
  description: '',
  keywords: [],
  publisher: null,
  attribution: null,
  licence: null,
  use: 'picture',
  crs: [],
  degrees: null,
  changed: null,
  often: null,
  access: null,
  href: null,
  whyNot: null,
};

/** A server that offers more is listed up to here, and the rest is told. */
export const MOST_ITEMS = 20_000;

/** Four numbers west, south, east, north that can be degrees; null otherwise. */
export function degreesOf(values: readonly unknown[]): readonly [number, number, number, number] | null {
  const n = values.map((v) => (typeof v === 'string' && v.trim() !== '' ? Number(v) : v));
  const [w, s, e, north] = (n.length === 6 ? [n[0], n[1], n[3], n[4]] : n) as number[];
  const box = [w, s, e, north] as const;
  if (n.length < 4 || !box.every((v) => typeof v === 'number' && Number.isFinite(v))) return null;
  return s! >= -90 && north! <= 90 && s! <= north! && w! >= -180.001 && e! <= 360.001 ? [w!, s!, e!, north!] : null;
}

/** `EPSG:25832` of the forms in which servers write a CRS; what is no EPSG code stays as it is. OGC 09-048r5; OGC 17-069r4, 6.2. */
export function crsNamed(text: string): string {
  const http = /\/def\/crs\/(\w+)\/[^/]+\/(\w+)$/i.exec(text);
  const urn = /^urn:ogc:def:crs:(\w+):[^:]*:(\w+)$/i.exec(text);
  const [, authority, code] = http ?? urn ?? /^(\w+):(\w+)$/.exec(text.trim()) ?? [];
  if (!authority) return text.trim();
  return /^(ogc|crs)$/i.test(authority) ? `CRS:${code!.replace(/^CRS/i, '')}` : `${authority.toUpperCase()}:${code}`;
}
