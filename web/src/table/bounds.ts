// Figures within bounds, as filters of a table.

import type { Column } from './column.ts';

export interface Bounds<Key extends string> {
  column: Key;
  /** Both included; `null` for none. */
  least: number | null;
  most: number | null;
}

/** `COLUMN:LEAST..MOST,…`, as addresses hold them; what is not understood is left out. */
export function readBounds<Key extends string>(text: string, figures: readonly Column<Key>[]): Bounds<Key>[] {
  return text.split(',').flatMap((one) => {
    const parts = /^([a-z_]+):(\d*)\.\.(\d*)$/.exec(one);
    const column = figures.find((figure) => figure.key === parts?.[1]);
    const bound = (digits: string | undefined) => (digits ? Number(digits) : null);
    return parts && column ? [{ column: column.key, least: bound(parts[2]), most: bound(parts[3]) }] : [];
  });
}

/** What {@link readBounds} reads as the bounds. */
export function writeBounds<Key extends string>(bounds: readonly Bounds<Key>[]): string {
  return bounds.map(({ column, least, most }) => `${column}:${least ?? ''}..${most ?? ''}`).join(',');
}

/** Bounds as an editor would say them. */
export function boundsInWords<Key extends string>(bounds: Bounds<Key>, columns: readonly Column<Key>[]): string {
  const { column, least, most } = bounds;
  const name = columns.find((other) => other.key === column)?.name.toLowerCase() ?? column;
  if (least !== null && most !== null) {
    return least === most ? `${name} = ${least}` : `${name} from ${least} to ${most}`;
  }
  return least !== null ? `${name} at least ${least}` : `${name} at most ${most ?? 0}`;
}
