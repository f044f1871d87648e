import { useQueries, useQuery } from '@tanstack/react-query';
import type { RowsPage, RowsRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';

export type Asked = Pick<RowsRequest, 'dataset' | 'sort' | 'find' | 'where' | 'filter'>;
const PAGE = 200;

/** Records that are on the screen, by their place among those that were found. */
export interface InSight {
  readonly first: number;
  readonly last: number;
}
export const FIRST_SIGHT: InSight = { first: 0, last: 40 };

const pageQuery = (key: string, asked: Asked, page: number) => ({
  queryKey: keys.of(key, 'rows', asked, page),
  queryFn: ({ signal }: { signal: AbortSignal }) => api.rows(key, { ...asked, seek: null, from: page * PAGE, count: PAGE }, signal),
  retry: false,
});

/** Where a record lies. Asked apart from the pages: rows that are shown stay while it is looked for. */
const seekQuery = (key: string, asked: Asked, seek: number | null) => ({
  queryKey: keys.of(key, 'rows', asked, 'seek', seek),
  queryFn: ({ signal }: { signal: AbortSignal }) => api.rows(key, { ...asked, seek, from: 0, count: 1 }, signal),
  enabled: seek !== null,
  retry: false,
});

/**
 * The first page tells fields and counts; the others come as they come in sight.
 * @param seek the id of a record whose place is wanted, or null
 */
export function useRows(key: string, asked: Asked, seek: number | null, { first, last }: InSight) {
  const head = useQuery({ ...pageQuery(key, asked, 0), placeholderData: (before: RowsPage | undefined) => before });
  const pages = Array.from({ length: Math.floor(last / PAGE) - Math.floor(first / PAGE) + 1 }, (_, i) => Math.floor(first / PAGE) + i);
  const parts = useQueries({ queries: pages.map((page) => ({ ...pageQuery(key, asked, page), enabled: head.isSuccess })) });
  const rowAt = (index: number): RowsPage['rows'][number] | undefined =>
    parts[Math.floor(index / PAGE) - pages[0]!]?.data?.rows[index % PAGE];
  const sought = useQuery(seekQuery(key, asked, seek));
  return { head, rowAt, at: sought.data?.at ?? null };
}
