// Selected rows: one by one, from one to another with Shift, or all that is shown.

import { useMemo, useRef, useState } from 'react';
import { announce, say } from '../parts/notices.ts';
import { MOST_SELECTED, type RowSource, rowsBetween } from './rows.ts';
import { noneSelected, only, type Selected, toggled } from './selected.ts';

export interface Selection<Row> {
  rows: ReadonlyMap<number, Row>;
  toggle: (index: number, row: Row) => void;
  /** Selects from the row chosen last to this one. */
  extendTo: (index: number) => void;
  all: (total: number) => void;
  clear: () => void;
}

export interface RowWords<Row> {
  /** What a row is known by. */
  keyOf: (row: Row) => number;
  /** So many rows, in words. */
  counted: (rows: number) => string;
}

/** Nothing is selected of a list once another list is shown. */
export function useSelection<Row>(source: RowSource<Row>, { keyOf, counted }: RowWords<Row>): Selection<Row> {
  const list = JSON.stringify(source.queryKey);
  const [state, setState] = useState<{ list: string; selected: Selected<Row> }>({ list, selected: noneSelected() });
  const selected = state.list === list ? state.selected : noneSelected<Row>();
  const now = useRef({ source, selected, keyOf, counted });
  now.current = { source, selected, keyOf, counted };
  return useMemo(() => {
    const set = (next: Selected<Row>) => {
      setState({ list, selected: next });
      announce(`${now.current.counted(next.rows.size)} selected`);
    };
    const select = async (from: number, to: number) => {
      try {
        const found = await rowsBetween(now.current.source, from, to);
        set(only(now.current.selected, found, now.current.keyOf));
        if (Math.abs(to - from) + 1 > MOST_SELECTED) {
          const most = now.current.counted(MOST_SELECTED);
          say({ text: `Only the first ${most} are selected. Export has no such limit.` });
        }
      } catch (error) {
        say({ text: error instanceof Error ? error.message : String(error), isError: true });
      }
    };
    return {
      rows: selected.rows,
      toggle: (index, row) => set(toggled(now.current.selected, index, now.current.keyOf(row), row)),
      extendTo: (index) => void select(now.current.selected.anchor, index),
      all: (total) => void select(0, total - 1),
      clear: () => setState({ list, selected: noneSelected() }),
    };
  }, [list, selected.rows]);
}
