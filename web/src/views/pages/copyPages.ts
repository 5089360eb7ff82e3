// Pages as a table on the clipboard.

import { count } from '../../parts/words.ts';
import { copyTable } from '../../table/clipboard.ts';
import { cellText } from './cellText.ts';
import type { PageColumn } from './columns.ts';
import type { PageRow } from './pageRows.ts';

/** Copies rows with these columns, and says so. */
export function copyPages(columns: readonly PageColumn[], rows: readonly PageRow[]): Promise<void> {
  const cells = rows.map((row) => columns.map((column) => cellText(column, row)));
  return copyTable([columns.map((column) => column.name), ...cells], count(rows.length, 'page'));
}
