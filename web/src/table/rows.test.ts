import { describe, expect, it } from 'vitest';
import { MOST_SELECTED, type RowSource, rowsBetween } from './rows.ts';

describe('rows between two places', () => {
  const asked: [number, number][] = [];
  const source = (total: number): RowSource<number> => ({
    queryKey: [],
    fetch: (offset, limit) => {
      asked.push([offset, limit]);
      const there = Math.max(0, Math.min(limit, total - offset));
      return Promise.resolve({ total, rows: Array.from({ length: there }, (_, at) => offset + at) });
    },
  });

  it('are all of them in order, from whichever end they were selected', async () => {
    expect(await rowsBetween(source(100), 7, 3)).toEqual([3, 4, 5, 6, 7]);
    expect(await rowsBetween(source(100), 3, 3)).toEqual([3]);
    const many = await rowsBetween(source(2000), 10, 1300);
    expect([many.length, many[0], many.at(-1)]).toEqual([1291, 10, 1300]);
    expect(new Set(many).size).toBe(many.length);
  });

  it('are fetched in few pieces, and no more than can be selected', async () => {
    asked.length = 0;
    const rows = await rowsBetween(source(100_000), 0, 99_999);
    expect(rows.length).toBe(MOST_SELECTED);
    expect(asked.length).toBeLessThanOrEqual(MOST_SELECTED / 500);
    expect(asked.every(([, limit]) => limit <= 500)).toBe(true);
  });

  it('end where the list ends', async () => {
    expect(await rowsBetween(source(5), 3, 9)).toEqual([3, 4]);
  });
});
