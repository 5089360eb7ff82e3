import { expect, test } from 'vitest';
import { queryOf, readWish, type Wish, writeWish } from './wish.ts';

const USUAL = readWish(new URLSearchParams());

test('the address bar brings back what was asked, and is not trusted', () => {
  const wish: Wish = { text: 'moon', fault: 'says_nothing', length: 'many', sort: 'faults', descending: false };
  for (const one of [USUAL, wish]) {
    expect(readWish(new URLSearchParams(writeWish(one).toString()))).toEqual(one);
  }
  expect(writeWish(USUAL).toString()).toBe('');
  expect(readWish(new URLSearchParams('fault=ugly&length=odd&sort=luck'))).toEqual(USUAL);
});

test('lengths are asked for in words', () => {
  expect(queryOf({ ...USUAL, length: 'one' })).toMatchObject({ least_words: 1, most_words: 1 });
  expect(queryOf({ ...USUAL, length: 'many' })).toMatchObject({ least_words: 11 });
  expect(queryOf(USUAL)).toEqual({ text: '', sort: 'links', descending: true });
});
