import { KINDS } from '../../parts/words.ts';
import type { PageColumn } from './columns.ts';
import type { PageRow } from './pageRows.ts';

/** What stands in a cell, as plain text. */
export function cellText(column: PageColumn, row: PageRow): string {
  switch (column.key) {
    case 'kind':
      return KINDS[row.kind];
    case 'category':
      return row.category ?? '';
    case 'depth':
      return row.depth === null || row.depth === undefined ? 'unreachable' : String(row.depth);
    case 'equity':
      return typeof row.equity === 'number' ? row.equity.toFixed(2) : '';
    case 'best_in':
    case 'best_out':
    case 'attention':
      return String(Math.round(row[column.key] ?? 0));
    default:
      return String(row[column.key]);
  }
}
