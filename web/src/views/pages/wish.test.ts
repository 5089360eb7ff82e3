import { describe, expect, it } from 'vitest';
import { boundsInWords } from '../../table/bounds.ts';
import { COLUMNS } from './columns.ts';
import { queryOf, readWish, writeWish } from './wish.ts';

describe('what Pages shows', () => {
  it('stands in the address as it is', () => {
    const wish = { ...readWish(new URLSearchParams()), text: 'a & b', descending: false };
    const bounds = [{ column: 'links_in' as const, least: 2, most: null }];
    for (const change of [{}, { only: 'orphans' as const }, { bounds }, { columns: wish.columns.slice(0, 2) }]) {
      const wished = { ...wish, ...change };
      expect(readWish(new URLSearchParams(writeWish(wished).toString()))).toEqual(wished);
    }
  });

  it('is as usual where an address says what there is not', () => {
    const usual = readWish(new URLSearchParams());
    const search = 'only=everything&kind=none&sort=beauty&columns=none&bounds=beauty:1..2,links_in:x';
    expect(readWish(new URLSearchParams(search))).toEqual(usual);
    expect(writeWish(usual).toString()).toBe('');
    expect(queryOf(usual)).toEqual({ text: '', sort: 'depth', descending: true });
  });

  it('says bounds in words', () => {
    const of = (least: number | null, most: number | null) =>
      boundsInWords({ column: 'links_in', least, most }, COLUMNS);
    expect([of(2, 5), of(3, 3), of(1, null), of(null, 0)]).toEqual([
      'links in from 2 to 5',
      'links in = 3',
      'links in at least 1',
      'links in at most 0',
    ]);
  });
});
