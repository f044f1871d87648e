import type { DatasetView, SourceView } from '@rootmap/core/contract';

export interface DatasetRow {
  readonly dataset: DatasetView;
  /** Null until the details have come. */
  readonly source: SourceView | null;
}
export type Column =
  'name' | 'kind' | 'count' | 'crs' | 'bytes' | 'modified' | 'where' | 'origin' | 'used' | 'picture' | 'extent' | 'owner' | 'findings';
export interface Order {
  readonly column: Column;
  readonly isDescending: boolean;
}

export const rowsOf = (datasets: readonly DatasetView[], sources: readonly SourceView[]): DatasetRow[] => {
  const byId = new Map(sources.map((s) => [s.id, s]));
  return datasets.map((dataset) => ({ dataset, source: byId.get(dataset.id) ?? null }));
};

/** Everything that a word may be looked for in: names, fields, origin, CRS. */
const textOf = ({ dataset: d, source: s }: DatasetRow): string =>
  [
    d.name,
    d.folder,
    d.link ?? '',
    d.format,
    d.geometry ?? '',
    d.crs ?? '',
    s?.crsName ?? '',
    ...(s?.fields.map(([name]) => name) ?? []),
    ...(s?.origin ? [s.origin.title, s.origin.publisher, s.origin.licence, s.origin.notes, s.origin.attribution] : []),
  ]
    .join(' ')
    .toLowerCase();

export function findRows(rows: readonly DatasetRow[], words: string): DatasetRow[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return wanted.length === 0 ? [...rows] : rows.filter((r) => wanted.every((w) => textOf(r).includes(w)));
}

const collator = new Intl.Collator(undefined, { numeric: true, sensitivity: 'base' });
const valueOf = ({ dataset: d, source: s }: DatasetRow, column: Column): string | number => {
  switch (column) {
    case 'name':
      return d.name;
    case 'picture':
    case 'kind':
      return `${d.kind} ${d.geometry ?? ''}`;
    case 'count':
      return d.count ?? -1;
    case 'crs':
      return d.crs ?? '';
    case 'bytes':
      return d.bytes;
    case 'modified':
      return s?.modifiedMs ?? 0;
    case 'where':
      return `${d.link ?? ''}/${d.folder}`;
    case 'origin':
      return s?.origin?.publisher ?? '';
    case 'used':
      return s?.usedBy ?? 0;
    case 'extent': // by size, in the units of its CRS
      return s?.bbox ? (s.bbox[2] - s.bbox[0]) * (s.bbox[3] - s.bbox[1]) : -1;
    case 'owner':
      return s?.owner ?? '';
    case 'findings':
      return d.findings.length + (s?.findings.length ?? 0);
  }
};

export function sortRows(rows: readonly DatasetRow[], { column, isDescending }: Order): DatasetRow[] {
  const sign = isDescending ? -1 : 1;
  return [...rows].sort((a, b) => {
    const [x, y] = [valueOf(a, column), valueOf(b, column)];
    const order = typeof x === 'number' && typeof y === 'number' ? x - y : collator.compare(String(x), String(y));
    return sign * order || collator.compare(a.dataset.name, b.dataset.name);
  });
}

export const findingsOf = ({ dataset: d, source: s }: DatasetRow) => [...d.findings, ...(s?.findings ?? [])];
