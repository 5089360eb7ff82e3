import { describe, expect, it, vi } from 'vitest';
import { MOST_SELECTED, rowsBetween } from './rows.ts';
import { noneSelected, only, toggled } from './selected.ts';

const keyOf = (row: { n: number }) => row.n;

describe('selected rows', () => {
  it('come and go one by one, and Shift selects from the one chosen last', () => {
    let selected = toggled(noneSelected<{ n: number }>(), 3, 30, { n: 30 });
    selected = toggled(selected, 5, 50, { n: 50 });
    expect([...selected.rows.keys()]).toEqual([30, 50]);
    expect(selected.anchor).toBe(5);
    selected = toggled(selected, 3, 30, { n: 30 });
    expect([[...selected.rows.keys()], selected.anchor]).toEqual([[50], 3]);
    const extended = only(selected, [{ n: 1 }, { n: 2 }], keyOf);
    expect([[...extended.rows.keys()], extended.anchor]).toEqual([[1, 2], 3]);
  });

  it('are fetched from one place to another, either way round, and no more than at most', async () => {
    const fetch = vi.fn(async (offset: number, limit: number) => ({
      total: 100_000,
      rows: Array.from({ length: limit }, (_, at) => ({ n: offset + at })),
    }));
    const source = { queryKey: [], fetch };
    const all = await rowsBetween(source, 1203, 2);
    expect(all.map(keyOf)).toEqual(Array.from({ length: 1202 }, (_, at) => at + 2));
    expect(fetch).toHaveBeenCalledTimes(3);
    expect(await rowsBetween(source, 0, 99_999)).toHaveLength(MOST_SELECTED);
  });
});
