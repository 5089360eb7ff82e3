// Rows as a table for the clipboard: HTML for text programs, tabs and lines for spreadsheets.

import type { Schema } from '../../api/client.ts';
import { KINDS } from '../../parts/words.ts';
import type { Column } from './columns.ts';

type Row = Schema['PageRow'];

/** What stands in a cell, as plain text. */
export function cellText(column: Column, row: Row): string {
  switch (column.key) {
    case 'kind':
      return KINDS[row.kind];
    case 'category':
      return row.category ?? '';
    case 'depth':
      return row.depth === null || row.depth === undefined ? 'unreachable' : String(row.depth);
    case 'best_in':
    case 'best_out':
    case 'attention':
      return String(Math.round(row[column.key] ?? 0));
    default:
      return String(row[column.key]);
  }
}

/** Text that no spreadsheet runs as a formula: one that begins like it gets an apostrophe. */
export function harmless(text: string): string {
  const flat = text.replaceAll(/[\t\r\n]+/g, ' ');
  return /^[^\p{L}\p{N}\p{P}\p{S}]*[=+\-@＝＋－＠]/u.test(flat) && !/^-?\d+(\.\d+)?$/.test(flat) ? `'${flat}` : flat;
}

export async function copyTable(columns: Column[], rows: Row[]): Promise<void> {
  const cells = [columns.map((column) => column.name), ...rows.map((row) => columns.map((c) => cellText(c, row)))];
  const plain = cells.map((row) => row.map(harmless).join('\t')).join('\n');
  const html = `<table>${cells.map((row) => `<tr>${row.map((text) => `<td>${escaped(text)}</td>`).join('')}</tr>`).join('')}</table>`;
  const blob = (text: string, type: string) => new Blob([text], { type });
  await navigator.clipboard.write([
    new ClipboardItem({ 'text/plain': blob(plain, 'text/plain'), 'text/html': blob(html, 'text/html') }),
  ]);
}

function escaped(text: string): string {
  return harmless(text).replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
}
