// What Pages shows, as it is kept in the address bar.

import { useSearchParams } from 'react-router';
import { KINDS } from '../../parts/words.ts';
import { type Bounds, readBounds, writeBounds } from '../../table/bounds.ts';
import { columnsOf, type Order, usualColumns } from '../../table/column.ts';
import {
  COLUMNS,
  type ColumnKey,
  columnOf,
  FIGURES,
  type Kind,
  type Only,
  type PageColumn,
  type Query,
} from './columns.ts';

export interface Wish extends Order<ColumnKey> {
  text: string;
  only: Only | null;
  kind: Kind | null;
  category: string | null;
  bounds: Bounds<ColumnKey>[];
  /** Keys of the columns that are shown, in the order of all columns. */
  columns: ColumnKey[];
}

export const ONLY: Record<Only, string> = {
  orphans: 'links in = 0',
  unreachable: 'out of reach',
  dead_ends: 'dead ends',
  broken: 'with broken links',
  fresh: 'new in the latest reading',
  fresh_unlinked: 'new, and no text links there',
  in_tray: 'with planned links',
  offered: 'with openings to them',
  threads: 'hanging on one link or page',
  islands: 'on islands out of reach',
};

export function useWish(): [Wish, (change: Partial<Wish>) => void] {
  const [search, setSearch] = useSearchParams();
  const wish = readWish(search);
  const setWish = (change: Partial<Wish>) => setSearch(writeWish({ ...wish, ...change }), { replace: true });
  return [wish, setWish];
}

/** The wish that an address holds; what it does not say, or says wrongly, is as usual. */
export function readWish(search: URLSearchParams): Wish {
  const only = search.get('only') as Only | null;
  const kind = search.get('kind') as Kind | null;
  return {
    text: search.get('text') ?? '',
    only: only && only in ONLY ? only : null,
    kind: kind && kind in KINDS ? kind : null,
    category: search.get('category') || null,
    bounds: readBounds(search.get('bounds') ?? '', FIGURES),
    sort: columnOf(search.get('sort') ?? '')?.key ?? 'depth',
    descending: search.get('order') !== 'up',
    columns: columnsOf(COLUMNS, search.get('columns')?.split(',')),
  };
}

/** What {@link readWish} reads as the wish. */
export function writeWish(wish: Wish): URLSearchParams {
  const columns = wish.columns.join(',');
  const entries: [string, string, boolean][] = [
    ['text', wish.text, wish.text !== ''],
    ['only', wish.only ?? '', wish.only !== null],
    ['kind', wish.kind ?? '', wish.kind !== null],
    ['category', wish.category ?? '', wish.category !== null],
    ['bounds', writeBounds(wish.bounds), wish.bounds.length > 0],
    ['sort', wish.sort, wish.sort !== 'depth'],
    ['order', 'up', !wish.descending],
    ['columns', columns, columns !== usualColumns(COLUMNS).join(',')],
  ];
  return new URLSearchParams(entries.filter(([, , isSet]) => isSet).map(([key, value]) => [key, value]));
}

/** The part of a wish that the server has to know. */
export function queryOf(wish: Wish): Query {
  const bounds = writeBounds(wish.bounds);
  return {
    text: wish.text,
    sort: wish.sort,
    descending: wish.descending,
    ...(bounds ? { ranges: bounds } : {}),
    ...(wish.only ? { only: wish.only } : {}),
    ...(wish.kind ? { kind: wish.kind } : {}),
    ...(wish.category ? { category: wish.category } : {}),
  };
}

export function shownColumns(wish: Wish): PageColumn[] {
  return COLUMNS.filter((column) => wish.columns.includes(column.key));
}
