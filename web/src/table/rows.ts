// Rows of a long list, fetched a window at a time.

import { keepPreviousData, useQueries } from '@tanstack/react-query';

/** Where rows come from. */
export interface RowSource<Row> {
  /** What tells this list from others, for keeping what was fetched. */
  queryKey: readonly unknown[];
  fetch: (offset: number, limit: number) => Promise<{ total: number; rows: Row[]; isComing?: boolean }>;
}

export interface Rows<Row> {
  /** How many there are; `undefined` until that is known. */
  total: number | undefined;
  /** A row near those in view, when it is there. */
  row: (index: number) => Row | undefined;
  error: Error | null;
  retry: () => void;
}

/** What is still being worked out is asked for again so soon, in milliseconds. */
const SOON = 1000;

/** Rows fetched together. */
const WINDOW = 100;

/** Rows fetched together for what is selected, and at most. */
const BLOCK = 500;
export const MOST_SELECTED = 5000;

/** Rows from `first` to `last`, with the window around them. */
export function useRows<Row>(source: RowSource<Row>, first: number, last: number): Rows<Row> {
  const from = Math.floor(Math.max(first, 0) / WINDOW);
  const windows = Array.from({ length: Math.floor(Math.max(last, 0) / WINDOW) - from + 1 }, (_, i) => from + i);
  const results = useQueries({
    queries: windows.map((window) => ({
      queryKey: [...source.queryKey, window],
      queryFn: () => source.fetch(window * WINDOW, WINDOW),
      placeholderData: keepPreviousData,
      refetchInterval: ({ state }: { state: { data: { isComing?: boolean } | undefined } }) =>
        state.data?.isComing ? SOON : (false as const),
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

/** Rows between two places, both included, at most {@link MOST_SELECTED}. */
export async function rowsBetween<Row>(source: RowSource<Row>, one: number, other: number): Promise<Row[]> {
  const first = Math.min(one, other);
  const last = Math.min(Math.max(one, other), first + MOST_SELECTED - 1);
  const rows: Row[] = [];
  for (let at = first; at <= last; at += BLOCK) {
    const fetched = await source.fetch(at, Math.min(BLOCK, last - at + 1));
    rows.push(...fetched.rows);
  }
  return rows;
}
