// The figures of equity as rows of a picture or a table.

import type { Schema } from '../../api/client.ts';
import type { BarRow } from '../../pictures/Bars.tsx';

export const SHOWN = {
  categories: 'categories',
  kinds: 'kinds',
  most: 'most favoured pages',
  least: 'starving pages',
  moved: 'moved by the tray',
};

export type Shown = keyof typeof SHOWN;

/** What pages without a category are called. */
export const NO_NAME = 'without a category';

const times = (value: number) => `${value.toFixed(2)} ×`;

interface Rows {
  rows: BarRow[];
  format: (value: number) => string;
  mark?: { value: number; name: string };
}

/** The bars of what is shown. */
export function rowsOf(equity: Schema['SiteEquity'], shown: Shown): Rows {
  const mark = { value: 1, name: 'the average page' };
  if (shown === 'categories' || shown === 'kinds') {
    const rows = equity[shown].map((group) => ({
      name: group.name ?? NO_NAME,
      before: beside(equity, group, group.now),
      after: beside(equity, group, group.after),
    }));
    return { rows: rows.sort((one, other) => other.before - one.before), format: times, mark };
  }
  const rows = equity[shown].map(({ page, now, after }) => ({ name: page.title, before: now, after }));
  return { rows: named(rows), format: times, mark };
}

/** A group's share beside what its number of pages would give it. */
export function beside(equity: Schema['SiteEquity'], group: Schema['EquityGroup'], share: number): number {
  const pages = equity.kinds.reduce((sum, kind) => sum + kind.pages, 0);
  return group.pages === 0 ? 0 : (share * pages) / group.pages;
}

/** Rows are known by their names: a title that stands twice gets a number. */
function named(rows: BarRow[]): BarRow[] {
  const seen = new Map<string, number>();
  return rows.map((row) => {
    const times = (seen.get(row.name) ?? 0) + 1;
    seen.set(row.name, times);
    return times === 1 ? row : { ...row, name: `${row.name} (${times})` };
  });
}
