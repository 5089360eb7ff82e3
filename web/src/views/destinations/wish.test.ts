import { expect, test } from 'vitest';
import { beginningOf, columnsFor, counted, nameOf, queryOf, readWish, type Wish, writeWish } from './wish.ts';

const USUAL = readWish(new URLSearchParams());

test('the address bar brings back what was asked, and is not trusted', () => {
  const wish: Wish = { text: 'shop', host: 'optics.example', addresses: true, sort: 'new_tab', descending: false };
  for (const one of [USUAL, wish]) {
    expect(readWish(new URLSearchParams(writeWish(one).toString()))).toEqual(one);
  }
  expect(writeWish(USUAL).toString()).toBe('');
  expect(readWish(new URLSearchParams('sort=luck&host='))).toEqual(USUAL);
  expect(queryOf(USUAL)).toEqual({ text: '', sort: 'links', descending: true });
});

test('addresses have no column of addresses, and are called so', () => {
  const keys = (wish: Wish) => columnsFor(wish).map((column) => column.key);
  expect(keys(USUAL)).toContain('addresses');
  expect(keys({ ...USUAL, host: 'optics.example' })).not.toContain('addresses');
  expect(counted(2, USUAL)).toBe('2 hosts');
  expect(counted(1, { ...USUAL, addresses: true })).toBe('1 address');
  expect(['mailto:', 'optics.example'].map((name) => nameOf({ name }))).toEqual(['mail', 'optics.example']);
});

test('what all addresses begin with is proposed for a swap', () => {
  expect(beginningOf(['https://a.example/x/1', 'https://a.example/x/2'])).toBe('https://a.example/x/');
  expect(beginningOf(['https://a.example/'])).toBe('https://a.example/');
  expect(beginningOf(['https://a.example/', 'mailto:b'])).toBe('');
  expect(beginningOf([])).toBe('');
});
