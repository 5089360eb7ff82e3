// Where the rows of Pages come from.

import { answer, api, type Schema } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import type { RowSource } from '../../table/rows.ts';
import type { RowWords } from '../../table/useSelection.ts';
import { queryOf, type Wish } from './wish.ts';

export type PageRow = Schema['PageRow'];

export function pageRows(site: number, wish: Wish): RowSource<PageRow> {
  const query = queryOf(wish);
  const tellsOfSoundings =
    wish.columns.includes('equity') || wish.sort === 'equity' || wish.only === 'threads' || wish.only === 'islands';
  return {
    queryKey: ['site', site, 'pages', query],
    fetch: async (offset, limit) => {
      const params = { path: { site }, query: { ...query, offset, limit } };
      const { total, rows, is_sounding } = await answer(api.GET('/api/sites/{site}/pages', { params }));
      return { total, rows, isComing: is_sounding && tellsOfSoundings };
    },
  };
}

export const PAGE_WORDS: RowWords<PageRow> = { keyOf: (row) => row.number, counted: (pages) => count(pages, 'page') };
