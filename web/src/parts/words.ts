// Numbers and names in words.

import type { Schema } from '../api/client.ts';

const NUMBERS = new Intl.NumberFormat('en');

export function count(n: number, one: string, many = `${one}s`): string {
  return `${NUMBERS.format(n)} ${n === 1 ? one : many}`;
}

export function number(n: number): string {
  return NUMBERS.format(n);
}

export const KINDS: Record<Schema['Kind'], string> = {
  page: 'page',
  post: 'post',
  product: 'product',
  collection: 'collection',
  term_archive: 'term archive',
  file: 'file',
};

const TIME = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** A moment in the reader's own zone. */
export function moment(iso: string): string {
  return TIME.format(new Date(iso));
}
