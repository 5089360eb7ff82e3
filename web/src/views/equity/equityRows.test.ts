import { describe, expect, it } from 'vitest';
import type { Schema } from '../../api/client.ts';
import { NO_NAME, rowsOf } from './equityRows.ts';

const page = (number: number, title: string) => ({ number, title, path: `/${number}` }) as Schema['PageRef'];

const EQUITY = {
  categories: [
    { name: null, pages: 8, now: 0.2, after: 0.3 },
    { name: 'Guides', pages: 2, now: 0.8, after: 0.7 },
  ],
  kinds: [{ name: 'page', pages: 10, now: 1, after: 1 }],
  most: [
    { page: page(1, 'Moons'), now: 3, after: 2 },
    { page: page(2, 'Moons'), now: 2, after: 2 },
  ],
  least: [],
  moved: [],
} as unknown as Schema['SiteEquity'];

describe('the rows of equity', () => {
  it('set a group beside what its number of pages would give it, the most favoured first', () => {
    const { rows, mark } = rowsOf(EQUITY, 'categories');
    expect(rows.map((row) => row.name)).toEqual(['Guides', NO_NAME]);
    expect(rows.map((row) => [row.before, row.after].map((value) => value?.toFixed(3)))).toEqual([
      ['4.000', '3.500'],
      ['0.250', '0.375'],
    ]);
    expect(mark?.value).toBe(1);
  });

  it('name two pages of one title apart', () => {
    expect(rowsOf(EQUITY, 'most').rows.map((row) => row.name)).toEqual(['Moons', 'Moons (2)']);
    expect(rowsOf(EQUITY, 'least').rows).toEqual([]);
  });
});
