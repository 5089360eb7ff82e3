// What Reach shows and what a rescue is to bring about, as it is kept in the address bar.

import { useSearchParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import type { Depth } from './layout.ts';

export type Only = 'orphans' | 'dead_ends' | 'threads' | 'islands';

export const ONLY: Record<Only, string> = {
  orphans: 'orphans',
  dead_ends: 'dead ends',
  threads: 'thread pages',
  islands: 'islands',
};

/** What a rescue is to bring about. */
export interface Limits {
  depth: number;
  linksIn: number;
  perPage: number;
  fit: number;
  sameCategory: boolean;
  oneWay: boolean;
  equity: boolean;
  /** Pages that are not edited. */
  untouched: number[];
  /** The pages to be helped; `null` for all. */
  pages: number[] | null;
  /** Whether these are to get a second way, where they hang on one. */
  secondWay: boolean;
}

export const USUAL: Limits = {
  depth: 4,
  linksIn: 1,
  perPage: 3,
  fit: 30,
  sameCategory: false,
  oneWay: false,
  equity: false,
  untouched: [],
  pages: null,
  secondWay: false,
};

export interface ReachWish extends Limits {
  only: Only | null;
  kind: Schema['Kind'] | null;
  category: string | null;
  isTable: boolean;
  /** The page whose facts are open. */
  page: number | null;
  zoom: Depth | undefined;
}

const FIGURES: Record<'depth' | 'linksIn' | 'perPage' | 'fit', { name: string; least: number; most: number }> = {
  depth: { name: 'within', least: 1, most: 30 },
  linksIn: { name: 'in', least: 0, most: 20 },
  perPage: { name: 'each', least: 1, most: 50 },
  fit: { name: 'fit', least: 0, most: 100 },
};

/** The bounds of a figure. */
export const boundsOf = (figure: keyof typeof FIGURES) => FIGURES[figure];

const numbers = (text: string | null) => (text ?? '').split(',').filter(Boolean).map(Number).filter(Number.isInteger);

/** The wish that an address holds; what it does not say, or says wrongly, is as usual. */
export function readReach(search: URLSearchParams): ReachWish {
  const figure = (key: keyof typeof FIGURES) => {
    const { name, least, most } = FIGURES[key];
    const text = search.get(name);
    const value = Number(text);
    return text !== null && Number.isInteger(value) && value >= least && value <= most ? value : USUAL[key];
  };
  const only = search.get('only') as Only | null;
  const page = Number(search.get('page') ?? Number.NaN);
  const band = search.get('band');
  const pages = numbers(search.get('pages'));
  return {
    depth: figure('depth'),
    linksIn: figure('linksIn'),
    perPage: figure('perPage'),
    fit: figure('fit'),
    sameCategory: search.has('category-alone'),
    oneWay: search.has('one-way'),
    equity: search.has('by-equity'),
    untouched: numbers(search.get('untouched')),
    pages: pages.length > 0 ? pages : null,
    secondWay: pages.length > 0 && search.has('second-way'),
    only: only && only in ONLY ? only : null,
    kind: search.get('kind') as Schema['Kind'] | null,
    category: search.get('category'),
    isTable: search.get('show') === 'table',
    page: Number.isInteger(page) ? page : null,
    zoom: band === null ? undefined : band === 'lost' ? null : Number(band),
  };
}

/** What {@link readReach} reads as the wish. */
export function writeReach(wish: ReachWish): URLSearchParams {
  const entries: [string, string, boolean][] = [
    ...(Object.keys(FIGURES) as (keyof typeof FIGURES)[]).map((key): [string, string, boolean] => [
      FIGURES[key].name,
      String(wish[key]),
      wish[key] !== USUAL[key],
    ]),
    ['category-alone', '', wish.sameCategory],
    ['one-way', '', wish.oneWay],
    ['by-equity', '', wish.equity],
    ['untouched', wish.untouched.join(','), wish.untouched.length > 0],
    ['pages', (wish.pages ?? []).join(','), wish.pages !== null],
    ['second-way', '', wish.secondWay && wish.pages !== null],
    ['only', wish.only ?? '', wish.only !== null],
    ['kind', wish.kind ?? '', wish.kind !== null],
    ['category', wish.category ?? '', wish.category !== null],
    ['show', 'table', wish.isTable],
    ['page', String(wish.page), wish.page !== null],
    ['band', wish.zoom === null ? 'lost' : String(wish.zoom), wish.zoom !== undefined],
  ];
  return new URLSearchParams(entries.filter(([, , isSet]) => isSet).map(([key, value]) => [key, value]));
}

export function useReachWish(): [ReachWish, (change: Partial<ReachWish>) => void] {
  const [search, setSearch] = useSearchParams();
  const wish = readReach(search);
  return [wish, (change) => setSearch((now) => writeReach({ ...readReach(now), ...change }), { replace: true })];
}
