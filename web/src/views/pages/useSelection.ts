// Selected pages: one by one, from one to another with Shift, or all that is shown.

import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { announce, say } from '../../parts/notices.ts';
import { count } from '../../parts/words.ts';
import { MOST_SELECTED, rowsBetween } from './usePageList.ts';
import { queryOf, type Wish } from './wish.ts';

type Row = Schema['PageRow'];

export interface Selection {
  rows: ReadonlyMap<number, Row>;
  toggle: (index: number, row: Row) => void;
  /** Selects from the row chosen last to this one. */
  extendTo: (index: number) => void;
  all: (total: number) => void;
  clear: () => void;
}

export function useSelection(site: number, wish: Wish): Selection {
  const [rows, setRows] = useState<ReadonlyMap<number, Row>>(new Map());
  const anchor = useRef(0);
  const shown = JSON.stringify(queryOf(wish));
  // biome-ignore lint/correctness/useExhaustiveDependencies: other rows are shown, so nothing of them is selected
  useEffect(() => setRows(new Map()), [shown, site]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the wish is compared by what it asks for
  const select = useCallback(
    async (from: number, to: number) => {
      try {
        const found = await rowsBetween(site, wish, from, to);
        setRows(new Map(found.map((row) => [row.number, row])));
        announce(`${count(found.length, 'page')} selected`);
        if (Math.abs(to - from) + 1 > MOST_SELECTED) {
          say({ text: `Only the first ${MOST_SELECTED} pages are selected. Export has no such limit.` });
        }
      } catch (error) {
        say({ text: error instanceof Error ? error.message : String(error), isError: true });
      }
    },
    [site, shown],
  );
  return useMemo(
    () => ({
      rows,
      toggle: (index, row) => {
        anchor.current = index;
        setRows((before) => {
          const after = new Map(before);
          if (!after.delete(row.number)) {
            after.set(row.number, row);
          }
          announce(`${count(after.size, 'page')} selected`);
          return after;
        });
      },
      extendTo: (index) => void select(anchor.current, index),
      all: (total) => void select(0, total - 1),
      clear: () => setRows(new Map()),
    }),
    [rows, select],
  );
}
