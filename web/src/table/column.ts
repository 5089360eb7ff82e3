// The columns of a table: what each is called, what it means, how wide it is, and how it sorts.

export interface Column<Key extends string> {
  key: Key;
  name: string;
  /** Shown when pointing at the heading. */
  meaning: string;
  /** Share of the width. */
  width: number;
  isNumber: boolean;
  /** Whether it is shown unless somebody chose otherwise. */
  isUsual: boolean;
  /** Whether it is sorted from the largest down at first; figures are, words are not. */
  isTellingFromTop?: boolean;
}

/** By which column rows are sorted. */
export interface Order<Key extends string> {
  sort: Key;
  descending: boolean;
}

/** The order after a press on a heading: the other way round where it is sorted by that column already. */
export function orderAfter<Key extends string>(order: Order<Key>, column: Column<Key>): Order<Key> {
  const fromTop = column.isTellingFromTop ?? column.isNumber;
  return { sort: column.key, descending: order.sort === column.key ? !order.descending : fromTop };
}

/** The columns with these keys, in the order of all columns; the usual ones where none has such a key. */
export function columnsOf<Key extends string>(all: readonly Column<Key>[], keys: readonly string[] | undefined): Key[] {
  const shown = all.filter((column) => keys?.includes(column.key)).map((column) => column.key);
  return shown.length > 0 ? shown : usualColumns(all);
}

export function usualColumns<Key extends string>(all: readonly Column<Key>[]): Key[] {
  return all.filter((column) => column.isUsual).map((column) => column.key);
}
