// Pages as a table on the clipboard.

import { say } from '../../parts/notices.ts';
import { count } from '../../parts/words.ts';
import { copyCells } from '../../table/clipboard.ts';
import { cellText } from './cellText.ts';
import type { PageColumn } from './columns.ts';
import type { PageRow } from './pageRows.ts';

/** Copies rows with these columns, and says so. */
export async function copyPages(columns: readonly PageColumn[], rows: readonly PageRow[]): Promise<void> {
  try {
    const cells = rows.map((row) => columns.map((column) => cellText(column, row)));
    await copyCells([columns.map((column) => column.name), ...cells]);
    say({ text: `Copied ${count(rows.length, 'page')} as a table.` });
  } catch {
    say({ text: 'The browser does not let Strelm write to the clipboard. Export the table instead.', isError: true });
  }
}
