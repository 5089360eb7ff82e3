import { describe, expect, it } from 'vitest';
import { EVERYTHING, type Filter, passes, readFilter, writeFilter } from './filter.ts';

const page = (category: string | null, is_orphan = false) =>
  ({ category, is_orphan }) as unknown as Parameters<typeof passes>[2]['page'];
const desk = { likely: 50, page: { category: 'Guides' } };
const usual: Filter = { leastFit: undefined, orphans: false, category: false };

describe('filters of the Desk', () => {
  it('stand in the address as they are', () => {
    for (const leastFit of [undefined, 0, 60]) {
      for (const orphans of [true, false]) {
        for (const category of [true, false]) {
          const filter = { leastFit, orphans, category };
          expect(readFilter(writeFilter(filter))).toEqual(filter);
        }
      }
    }
    expect(readFilter(new URLSearchParams('fit=many'))).toEqual(EVERYTHING);
    expect(writeFilter(usual).toString()).toBe('');
  });

  it('show what is likely to be kept, unless another fit is asked for', () => {
    expect(passes(usual, desk, { fit: 50, page: page(null) })).toBe(true);
    expect(passes(usual, desk, { fit: 49, page: page(null) })).toBe(false);
    expect(passes(EVERYTHING, desk, { fit: 0, page: page(null) })).toBe(true);
  });

  it('leave out other categories and pages that are reached', () => {
    expect(passes({ ...usual, category: true }, desk, { fit: 90, page: page('Guides') })).toBe(true);
    expect(passes({ ...usual, category: true }, desk, { fit: 90, page: page(null) })).toBe(false);
    expect(passes({ ...usual, orphans: true }, desk, { fit: 90, page: page(null) })).toBe(false);
    expect(passes({ ...usual, orphans: true }, desk, { fit: 90, page: page(null, true) })).toBe(true);
  });
});
