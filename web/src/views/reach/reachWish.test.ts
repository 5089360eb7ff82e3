import { describe, expect, it } from 'vitest';
import { readReach, writeReach } from './reachWish.ts';

describe('what Reach shows', () => {
  it('stands in the address as it is', () => {
    const usual = readReach(new URLSearchParams());
    expect(writeReach(usual).toString()).toBe('');
    for (const change of [
      { depth: 3, linksIn: 0, fit: 0 },
      { sameCategory: true, oneWay: true, equity: true, untouched: [4, 7], pages: [1], secondWay: true },
      { only: 'islands' as const, category: 'Sky & sea', isTable: true, page: 0, zoom: null },
      { zoom: 0 },
    ]) {
      const wished = { ...usual, ...change };
      expect(readReach(new URLSearchParams(writeReach(wished).toString()))).toEqual(wished);
    }
  });

  it('is as usual where an address says what cannot be', () => {
    const search = 'within=0&in=-1&each=x&fit=101&only=all&page=&pages=a&untouched=,';
    expect(readReach(new URLSearchParams(search))).toEqual({ ...readReach(new URLSearchParams()), page: 0 });
  });
});
