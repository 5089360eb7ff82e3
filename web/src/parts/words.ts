// Numbers, names and moments in words.

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
const TIME_AND_ZONE = new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeStyle: 'long' });

/** A moment in the reader's own zone. */
export function moment(iso: string): string {
  return TIME.format(new Date(iso));
}

/** The same with its zone, for pointing at it. */
export function exactMoment(iso: string): string {
  return TIME_AND_ZONE.format(new Date(iso));
}

/** A length of time as people say it. */
export function duration(seconds: number): string {
  if (seconds < 90) {
    return count(Math.max(1, Math.round(seconds)), 'second');
  }
  return seconds < 5400 ? count(Math.round(seconds / 60), 'minute') : count(Math.round(seconds / 3600), 'hour');
}
