// Anchor texts and the links that say them.

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import type { RowSource } from '../../table/rows.ts';
import type { RowWords } from '../../table/useSelection.ts';
import { type AnchorRow, queryOf, type Wish } from './wish.ts';

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
