// Parts of the footer's form that compute.

import type { Footer } from './useEdge.ts';

/** A list with one of its items in another place. */
export function moved<T>(list: readonly T[], from: number, to: number): T[] {
  const rest = list.filter((_, at) => at !== from);
  return [...rest.slice(0, to), ...list.slice(from, from + 1), ...rest.slice(to)];
}

/** Whether two footers say the same. */
export function isSame(one: Footer, other: Footer): boolean {
  const said = ({ is_on, before, between, after, links }: Footer) =>
    JSON.stringify([is_on, before, between, after, links.map(({ text, page, address }) => [text, page, address])]);
  return said(one) === said(other);
}
