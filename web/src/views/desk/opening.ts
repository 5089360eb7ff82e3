// Openings as the Desk knows them: what they are called, and fits that stay while a page is open.

import type { Schema } from '../../api/client.ts';

export type Opening = Schema['OpeningRow'];

/** The two directions of links, as seen from the page on the Desk. */
export type Side = 'in' | 'out';

export const SIDES: readonly Side[] = ['in', 'out'];

/** What an opening is known by, whatever its words and its fit become. */
export function keyOf({ source, target }: { source: number; target: number }): string {
  return `${source}-${target}`;
}

/** The fit of an opening when the page was opened, or when the opening first came to it. */
type Fit = Pick<Opening, 'fit' | 'parts'>;

/** What an editor saw since the page was opened: fits, and openings that lead in in their order, by their keys. */
export interface Seen {
  fits: ReadonlyMap<string, Fit>;
  order: readonly string[];
}

export const NOTHING_SEEN: Seen = { fits: new Map(), order: [] };

/**
 * With what came by now. What was seen before keeps its place; what is new comes before the first that fits less well.
 * The same object when nothing is new. O(openings), and O(openings seen) for each that is new.
 */
export function withSeen(seen: Seen, into: readonly Opening[], out: readonly Opening[]): Seen {
  const fresh = [...into, ...out].filter((opening) => !seen.fits.has(keyOf(opening)));
  if (fresh.length === 0) {
    return seen;
  }
  const fits = new Map(seen.fits);
  for (const opening of fresh) {
    fits.set(keyOf(opening), { fit: opening.fit, parts: opening.parts });
  }
  const order = [...seen.order];
  for (const opening of into.filter((opening) => !seen.fits.has(keyOf(opening)))) {
    const at = order.findIndex((key) => (fits.get(key)?.fit ?? 0) < opening.fit);
    order.splice(at < 0 ? order.length : at, 0, keyOf(opening));
  }
  return { fits, order };
}

/** An opening with the fit that was seen: what else is taken or released moves it behind the scenes only. */
export function asSeen(seen: Seen, opening: Opening): Opening {
  return { ...opening, ...seen.fits.get(keyOf(opening)) };
}

/** Openings that lead in, in the order in which they were seen. O(n log n). */
export function inSeenOrder(seen: Seen, openings: readonly Opening[]): Opening[] {
  const places = new Map(seen.order.map((key, place) => [key, place]));
  const place = (opening: Opening) => places.get(keyOf(opening)) ?? places.size;
  return openings.toSorted((one, other) => place(one) - place(other));
}
