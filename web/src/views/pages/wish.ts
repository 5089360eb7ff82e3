// What Pages shows, as it is kept in the address bar.

import { useSearchParams } from 'react-router';
import { KINDS } from '../../parts/words.ts';
import {
  COLUMNS,
  type Column,
  type ColumnKey,
  columnOf,
  FIGURES,
  type Kind,
  type Only,
  type Query,
} from './columns.ts';

/** A figure within bounds. */
export interface Bounds {
  column: ColumnKey;
  least: number | null;
  most: number | null;
}

export interface Wish {
  text: string;
  only: Only | null;
  kind: Kind | null;
  bounds: Bounds[];
  sort: ColumnKey;
  descending: boolean;
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
};

const USUAL = COLUMNS.filter((column) => column.isUsual).map((column) => column.key);

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
  const shown = search.get('columns')?.split(',') ?? USUAL;
  const columns = COLUMNS.filter((column) => shown.includes(column.key)).map((column) => column.key);
  return {
    text: search.get('text') ?? '',
    only: only && only in ONLY ? only : null,
    kind: kind && kind in KINDS ? kind : null,
    bounds: (search.get('bounds') ?? '').split(',').flatMap(readBounds),
    sort: columnOf(search.get('sort') ?? '')?.key ?? 'depth',
    descending: search.get('order') !== 'up',
    columns: columns.length > 0 ? columns : USUAL,
  };
}

function readBounds(text: string): Bounds[] {
  const parts = /^([a-z_]+):(\d*)\.\.(\d*)$/.exec(text);
  const column = FIGURES.find((figure) => figure.key === parts?.[1]);
  const bound = (digits: string | undefined) => (digits ? Number(digits) : null);
  return parts && column ? [{ column: column.key, least: bound(parts[2]), most: bound(parts[3]) }] : [];
}

export function writtenBounds(bounds: Bounds[]): string {
  return bounds.map(({ column, least, most }) => `${column}:${least ?? ''}..${most ?? ''}`).join(',');
}

/** What {@link readWish} reads as the wish. */
export function writeWish(wish: Wish): URLSearchParams {
  const columns = wish.columns.join(',');
  const entries: [string, string, boolean][] = [
    ['text', wish.text, wish.text !== ''],
    ['only', wish.only ?? '', wish.only !== null],
    ['kind', wish.kind ?? '', wish.kind !== null],
    ['bounds', writtenBounds(wish.bounds), wish.bounds.length > 0],
    ['sort', wish.sort, wish.sort !== 'depth'],
    ['order', 'up', !wish.descending],
    ['columns', columns, columns !== USUAL.join(',')],
  ];
  return new URLSearchParams(entries.filter(([, , isSet]) => isSet).map(([key, value]) => [key, value]));
}

/** The part of a wish that the server has to know. */
export function queryOf(wish: Wish): Query {
  const bounds = writtenBounds(wish.bounds);
  return {
    text: wish.text,
    sort: wish.sort,
    descending: wish.descending,
    ...(bounds ? { ranges: bounds } : {}),
    ...(wish.only ? { only: wish.only } : {}),
    ...(wish.kind ? { kind: wish.kind } : {}),
  };
}

/** Bounds as an editor would say them. */
export function boundsInWords({ column, least, most }: Bounds): string {
  const name = columnOf(column)?.name.toLowerCase() ?? column;
  if (least !== null && most !== null) {
    return least === most ? `${name} = ${least}` : `${name} from ${least} to ${most}`;
  }
  return least !== null ? `${name} at least ${least}` : `${name} at most ${most ?? 0}`;
}

export function shownColumns(wish: Wish): Column[] {
  return COLUMNS.filter((column) => wish.columns.includes(column.key));
}
