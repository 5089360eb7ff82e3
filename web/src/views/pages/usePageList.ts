// What Pages shows, kept in the address bar, and its rows, fetched a window at a time.

import { keepPreviousData, useQueries } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { answer, api, type Schema } from '../../api/client.ts';
import { COLUMNS, type Only, type SortBy } from './columns.ts';

/** Rows fetched together. */
const WINDOW = 100;

export interface Wish {
  text: string;
  only: Only | null;
  sort: SortBy;
  descending: boolean;
}

export function useWish(): [Wish, (change: Partial<Wish>) => void] {
  const [search, setSearch] = useSearchParams();
  const only = search.get('only');
  const wish: Wish = {
    text: search.get('text') ?? '',
    only: only === 'orphans' || only === 'unreachable' ? only : null,
    sort: COLUMNS.find((column) => column.key === search.get('sort'))?.key ?? 'depth',
    descending: search.get('order') !== 'up',
  };
  const setWish = (change: Partial<Wish>) => {
    const next = { ...wish, ...change };
    const entries: [string, string, boolean][] = [
      ['text', next.text, next.text !== ''],
      ['only', next.only ?? '', next.only !== null],
      ['sort', next.sort, next.sort !== 'depth'],
      ['order', 'up', !next.descending],
    ];
    setSearch(new URLSearchParams(entries.filter(([, , isSet]) => isSet).map(([key, value]) => [key, value])), {
      replace: true,
    });
  };
  return [wish, setWish];
}

export interface PageList {
  total: number | undefined;
  row: (index: number) => Schema['PageRow'] | undefined;
  error: Error | null;
  retry: () => void;
}

/** Rows from `first` to `last`, with the window around them. */
export function usePageList(site: number, wish: Wish, first: number, last: number): PageList {
  const from = Math.floor(Math.max(first, 0) / WINDOW);
  const windows = Array.from({ length: Math.floor(Math.max(last, 0) / WINDOW) - from + 1 }, (_, i) => from + i);
  const results = useQueries({
    queries: windows.map((window) => ({
      queryKey: ['site', site, 'pages', wish, window] as const,
      queryFn: () => {
        const query = {
          text: wish.text,
          sort: wish.sort,
          descending: wish.descending,
          offset: window * WINDOW,
          limit: WINDOW,
          ...(wish.only ? { only: wish.only } : {}),
        };
        return answer(api.GET('/api/sites/{site}/pages', { params: { path: { site }, query } }));
      },
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
