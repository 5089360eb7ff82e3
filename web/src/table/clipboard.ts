// Cells for the clipboard: HTML for text programs, tabs and lines for spreadsheets.

import { say } from '../parts/notices.ts';

/** Text that no spreadsheet runs as a formula: one that begins like it gets an apostrophe. */
export function harmless(text: string): string {
  const flat = text.replaceAll(/[\t\r\n]+/g, ' ');
  return /^[^\p{L}\p{N}\p{P}\p{S}]*[=+\-@＝＋－＠]/u.test(flat) && !/^-?\d+(\.\d+)?$/.test(flat) ? `'${flat}` : flat;
}

/** Rows of cells, the headings first, as text and as a table. */
export function asTable(cells: readonly (readonly string[])[]): { plain: string; html: string } {
  const plain = cells.map((row) => row.map(harmless).join('\t')).join('\n');
  const rows = cells.map((row) => `<tr>${row.map((text) => `<td>${escaped(text)}</td>`).join('')}</tr>`);
  return { plain, html: `<table>${rows.join('')}</table>` };
}

/** Fails where the browser does not let a page write there. */
export async function copyCells(cells: readonly (readonly string[])[]): Promise<void> {
  const { plain, html } = asTable(cells);
  const blob = (text: string, type: string) => new Blob([text], { type });
  await navigator.clipboard.write([
    new ClipboardItem({ 'text/plain': blob(plain, 'text/plain'), 'text/html': blob(html, 'text/html') }),
  ]);
}

/** Copies rows and says so, or that it could not be done. `what` are the rows in words. */
export async function copyTable(cells: readonly (readonly string[])[], what: string): Promise<void> {
  try {
    await copyCells(cells);
    say({ text: `Copied ${what} as a table.` });
  } catch {
    say({ text: 'The browser does not let Strelm write to the clipboard. Export the table instead.', isError: true });
  }
}

function escaped(text: string): string {
  return harmless(text).replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
}
