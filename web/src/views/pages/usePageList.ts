// The rows of Pages, fetched a window at a time.

import { keepPreviousData, useQueries } from '@tanstack/react-query';
import { answer, api, type Schema } from '../../api/client.ts';
import { queryOf, type Wish } from './wish.ts';

/** Rows fetched together. */
const WINDOW = 100;

/** Rows fetched together for what is selected, and at most. */
const BLOCK = 500;
export const MOST_SELECTED = 5000;

export interface PageList {
  total: number | undefined;
  row: (index: number) => Schema['PageRow'] | undefined;
  error: Error | null;
  retry: () => void;
}

function fetchRows(site: number, wish: Wish, offset: number, limit: number) {
  const query = { ...queryOf(wish), offset, limit };
  return answer(api.GET('/api/sites/{site}/pages', { params: { path: { site }, query } }));
}

/** Rows from `first` to `last`, with the window around them. */
export function usePageList(site: number, wish: Wish, first: number, last: number): PageList {
  const from = Math.floor(Math.max(first, 0) / WINDOW);
  const windows = Array.from({ length: Math.floor(Math.max(last, 0) / WINDOW) - from + 1 }, (_, i) => from + i);
  const results = useQueries({
    queries: windows.map((window) => ({
      queryKey: ['site', site, 'pages', queryOf(wish), window] as const,
      queryFn: () => fetchRows(site, wish, window * WINDOW, WINDOW),
      placeholderData: keepPreviousData,
    })),
  });
  return {
    total: results.find((result) => result.data)?.data?.total,
    row: (index) => results[Math.floor(index / WINDOW) - from]?.data?.rows[index % WINDOW],
    error: results.find((result) => result.error)?.error ?? null,
    retry: () => {
      for (const result of results) {
        void result.refetch();
      }
    },
  };
}

/** Rows between two places, both included, at most `MOST_SELECTED`. */
export async function rowsBetween(site: number, wish: Wish, one: number, other: number): Promise<Schema['PageRow'][]> {
  const [first, last] = [Math.min(one, other), Math.max(one, other)];
  const rows: Schema['PageRow'][] = [];
  for (let at = first; at <= last && rows.length < MOST_SELECTED; at += BLOCK) {
    const fetched = await fetchRows(site, wish, at, Math.min(BLOCK, last - at + 1));
    rows.push(...fetched.rows);
  }
  return rows;
}
