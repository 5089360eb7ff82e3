// Anchor texts and the links that say them.

import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { answer, api, type Schema } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import type { RowSource } from '../../table/rows.ts';
import type { RowWords } from '../../table/useSelection.ts';
import { type AnchorRow, queryOf, type Wish } from './wish.ts';

export type Place = Schema['AnchorPlaceRow'];

/** Places of a window. */
const AT_ONCE = 50;

export const ANCHOR_WORDS: RowWords<AnchorRow> = {
  keyOf: (row) => row.number,
  counted: (texts) => count(texts, 'text'),
};

export function anchorRows(site: number, wish: Wish): RowSource<AnchorRow> {
  const query = queryOf(wish);
  return {
    queryKey: ['site', site, 'anchors', query],
    fetch: async (offset, limit) => {
      const params = { path: { site }, query: { ...query, offset, limit } };
      const { total, rows, texts_to_come } = await answer(api.GET('/api/sites/{site}/anchors', { params }));
      return { total, rows, isComing: Boolean(texts_to_come) };
    },
  };
}

/** What is wrong on the whole site. */
export function useAnchorFaults(site: number) {
  return useQuery({
    queryKey: ['site', site, 'anchors', 'faults'],
    queryFn: () => answer(api.GET('/api/sites/{site}/anchors', { params: { path: { site }, query: { limit: 0 } } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.texts_to_come ? 2000 : false),
  });
}

/** The links that say some texts. */
export function usePlaces(site: number, keys: readonly string[]) {
  const query = useInfiniteQuery({
    queryKey: ['site', site, 'anchors', 'places', keys],
    queryFn: ({ pageParam }) =>
      answer(
        api.POST('/api/sites/{site}/anchors/places', {
          params: { path: { site }, query: { offset: pageParam, limit: AT_ONCE } },
          body: { keys: [...keys] },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, all) => (all.length * AT_ONCE < last.total ? all.length * AT_ONCE : undefined),
    enabled: keys.length > 0,
  });
  const windows = query.data?.pages ?? [];
  return {
    total: windows[0]?.total,
    places: windows.flatMap((window) => window.places),
    isLooking: query.isPending,
    error: query.error,
    retry: () => void query.refetch(),
    more: query.hasNextPage ? () => void query.fetchNextPage() : undefined,
    isMoreComing: query.isFetchingNextPage,
  };
}
