// A grid of phrases, a row for each page: what is typed, pasted and filled into it.

import type { Schema } from '../../api/client.ts';
import type { Rule } from './ruleDraft.ts';

export type Proposed = Schema['PageWithPhrases'];

/** Phrases for a page. */
export const COLUMNS = 5;

export type Grid = readonly (readonly string[])[];

/** What stands in it at first: names that stand somewhere, name no other page more and are of no rule yet. */
export function gridOf(pages: readonly Proposed[]): Grid {
  return pages.map(({ phrases }) => {
    const good = phrases.filter((one) => one.pages > 0 && !one.is_guess && !one.rival && one.rule === null);
    return Array.from({ length: COLUMNS }, (_, at) => good[at]?.text ?? '');
  });
}

/** With a text in a cell; one with lines or tabs, as from a spreadsheet, goes into the cells from there on. */
export function put(grid: Grid, row: number, column: number, text: string): Grid {
  const lines = text
    .replace(/\r/g, '')
    .replace(/\n$/, '')
    .split('\n')
    .map((line) => line.split('\t'));
  return grid.map((cells, at) => {
    const line = lines[at - row];
    return line === undefined || at < row ? cells : cells.map((cell, other) => line[other - column] ?? cell);
  });
}

/** With the cell above in the place of one. */
export function fillDown(grid: Grid, row: number, column: number): Grid {
  const above = grid[row - 1]?.[column];
  return above === undefined ? grid : put(grid, row, column, above);
}

/** A rule for each page that has phrases. */
export function rulesOfGrid(grid: Grid, pages: readonly Proposed[]): Rule[] {
  return pages.flatMap(({ page }, row) => {
    const phrases = [...new Set((grid[row] ?? []).map((cell) => cell.trim()).filter((cell) => cell !== ''))];
    return phrases.length > 0 ? [{ phrases, target: page.number }] : [];
  });
}
