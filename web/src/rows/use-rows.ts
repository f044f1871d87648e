import { useQueries, useQuery } from '@tanstack/react-query';
import type { RowsPage, RowsRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';

export type Asked = Pick<RowsRequest, 'dataset' | 'sort' | 'find' | 'where' | 'filter' | 'seek'>;
const PAGE = 200;

const pageQuery = (key: string, asked: Asked, page: number) => ({
  queryKey: keys.of(key, 'rows', asked, page),
  queryFn: ({ signal }: { signal: AbortSignal }) => api.rows(key, { ...asked, from: page * PAGE, count: PAGE }, signal),
  retry: false,
});

/** The first page tells fields and counts; the others come as they come in sight. */
export function useRows(key: string, asked: Asked, first: number, last: number) {
  const head = useQuery({ ...pageQuery(key, asked, 0), placeholderData: (before: RowsPage | undefined) => before });
  const pages = Array.from({ length: Math.floor(last / PAGE) - Math.floor(first / PAGE) + 1 }, (_, i) => Math.floor(first / PAGE) + i);
  const parts = useQueries({ queries: pages.map((page) => ({ ...pageQuery(key, asked, page), enabled: head.isSuccess })) });
  const rowAt = (index: number): RowsPage['rows'][number] | undefined =>
    parts[Math.floor(index / PAGE) - pages[0]!]?.data?.rows[index % PAGE];
  return { head, rowAt };
}
