import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Entry } from './entry.ts';
import { Kept } from './kept.ts';

const entry = (key: string): Entry => ({ key, order: { do: 'undo' }, words: `words of ${key}` });
const keys = (kept: Kept) => kept.all().map(({ key }) => key);

describe('decisions that are not confirmed', () => {
  beforeEach(() => window.localStorage.clear());
  afterEach(() => vi.restoreAllMocks());

  it('are there in their order after the window is opened anew', () => {
    const kept = new Kept(1);
    const all = Array.from({ length: 30 }, (_, at) => `key-${30 - at}`);
    for (const key of all) {
      kept.put(entry(key));
    }
    expect(keys(new Kept(1))).toEqual(all);
    expect(kept.isVolatile).toBe(false);
    kept.remove('key-30');
    expect(keys(new Kept(1))).toEqual(all.slice(1));
  });

  it('of two windows do not write over each other, and those of another site are left alone', () => {
    const [one, two, other] = [new Kept(1), new Kept(1), new Kept(12)];
    one.put(entry('a'));
    two.put(entry('b'));
    other.put(entry('c'));
    expect(keys(one).sort()).toEqual(['a', 'b']);
    expect(keys(other)).toEqual(['c']);
    two.remove('c');
    expect(keys(other)).toEqual(['c']);
  });

  it('know the names under which they are kept', () => {
    const kept = new Kept(1);
    kept.put(entry('a'));
    const name = window.localStorage.key(0);
    expect(kept.isName(name)).toBe(true);
    expect(kept.isName(null)).toBe(true);
    expect(kept.isName('strelm.outbox.2.1.a')).toBe(false);
  });

  it('are held in memory where the browser keeps nothing', () => {
    vi.spyOn(window, 'localStorage', 'get').mockImplementation(() => {
      throw new DOMException('blocked', 'SecurityError');
    });
    const kept = new Kept(1);
    kept.put(entry('a'));
    kept.put(entry('b'));
    expect(keys(kept)).toEqual(['a', 'b']);
    expect(kept.isVolatile).toBe(true);
    kept.remove('a');
    kept.remove('b');
    expect([keys(kept), kept.isVolatile]).toEqual([[], false]);
  });

  it('are taken over from the way in which an earlier version kept them', () => {
    window.localStorage.setItem('strelm.outbox.1', JSON.stringify([entry('a'), entry('b')]));
    expect(keys(new Kept(1))).toEqual(['a', 'b']);
    expect(window.localStorage.getItem('strelm.outbox.1')).toBeNull();
    expect(keys(new Kept(1))).toEqual(['a', 'b']);
  });

  it('are none where something else stands under their names', () => {
    for (const [at, text] of ['', 'null', '{', '[]', '{"key":1}', '{"key":"a","order":{}}'].entries()) {
      window.localStorage.setItem(`strelm.outbox.1.${at}.x`, text);
    }
    window.localStorage.setItem('strelm.outbox.1', '{');
    expect(keys(new Kept(1))).toEqual([]);
  });
});
