import type { ItemUse, ServiceItem, ServiceTree } from '@rootmap/core';

export const KIND_WORD: Readonly<Record<ServiceTree['kind'], string>> = {
  wms: 'WMS, pictures',
  features: 'OGC API, records',
  records: 'catalogue',
  tiles: 'tiles, pictures',
};

export const USE_WORD: Readonly<Record<ItemUse, string>> = {
  picture: 'picture',
  query: 'picture, can be asked',
  copyable: 'records, can be copied',
  file: 'file',
};

export const USE_TONE = { picture: 'slate', query: 'slate', copyable: 'spruce', file: 'ochre' } as const;

export type OfferOrder = 'server' | 'title' | 'publisher' | 'changed';

/** What is offered and has all of the words, by title, name, publisher, keyword or description; in an order. Headings only where nothing is sought. */
export function findOffers(items: readonly ServiceItem[], words: string, use: ItemUse | 'all', order: OfferOrder): ServiceItem[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const isNarrowed = wanted.length > 0 || use !== 'all' || order !== 'server';
  const found = items.filter((i) => {
    if (i.name === '') return !isNarrowed;
    if (use !== 'all' && i.use !== use && !(use === 'picture' && i.use === 'query')) return false;
    const hay = [i.title, i.name, i.publisher, i.description, ...i.keywords, ...i.below].join(' ').toLowerCase();
    return wanted.every((w) => hay.includes(w));
  });
  const by = (key: 'title' | 'publisher'): ServiceItem[] =>
    found.sort((a, b) => (a[key] ?? '\uffff').localeCompare(b[key] ?? '\uffff', 'en'));
  if (order === 'title' || order === 'publisher') return by(order);
  return order === 'changed' ? found.sort((a, b) => (b.changed ?? '').localeCompare(a.changed ?? '')) : found;
}

/** A box in degrees in words: west to east, south to north. */
export const boxWords = ([w, s, e, n]: readonly [number, number, number, number]): string =>
  `${degrees(w, 'E', 'W')} to ${degrees(e, 'E', 'W')}, ${degrees(s, 'N', 'S')} to ${degrees(n, 'N', 'S')}`;

const degrees = (v: number, plus: string, minus: string): string => `${Math.abs(v).toFixed(2)}° ${v < 0 ? minus : plus}`;
