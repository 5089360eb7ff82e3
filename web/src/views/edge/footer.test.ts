import { describe, expect, it } from 'vitest';
import { isSame, moved } from './footer.ts';

describe('the footer', () => {
  it('keeps all links when one is moved', () => {
    expect(moved(['a', 'b', 'c'], 2, 0)).toEqual(['c', 'a', 'b']);
    expect(moved(['a', 'b', 'c'], 0, 1)).toEqual(['b', 'a', 'c']);
    expect(moved(['a'], 0, 0)).toEqual(['a']);
  });

  it('is the same when it says the same, whatever the order of its parts', () => {
    const link = { text: 'Moon', page: 3, address: null };
    const footer = { is_on: true, before: '<p>', between: ' ', after: '</p>', links: [link] };
    const other = {
      links: [{ address: null, page: 3, text: 'Moon' }],
      after: '</p>',
      between: ' ',
      before: '<p>',
      is_on: true,
    };
    expect(isSame(footer, other)).toBe(true);
    expect(isSame(footer, { ...footer, is_on: false })).toBe(false);
    expect(isSame(footer, { ...footer, links: [] })).toBe(false);
  });
});
