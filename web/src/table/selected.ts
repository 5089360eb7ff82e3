// Which rows are selected.

/** Selected rows by their keys, in the order in which they were selected, and the row from which Shift selects. */
export interface Selected<Row> {
  rows: ReadonlyMap<number, Row>;
  anchor: number;
}

export function noneSelected<Row>(): Selected<Row> {
  return { rows: new Map(), anchor: 0 };
}

/** With the row at `index` selected, or no more. */
export function toggled<Row>(before: Selected<Row>, index: number, key: number, row: Row): Selected<Row> {
  const rows = new Map(before.rows);
  if (!rows.delete(key)) {
    rows.set(key, row);
  }
  return { rows, anchor: index };
}

/** With these rows alone; Shift goes on from where it began. */
export function only<Row>(before: Selected<Row>, rows: Row[], keyOf: (row: Row) => number): Selected<Row> {
  return { rows: new Map(rows.map((row) => [keyOf(row), row])), anchor: before.anchor };
}
