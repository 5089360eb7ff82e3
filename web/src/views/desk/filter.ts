// Which openings the Desk shows, as it is kept in the address bar.

import type { Schema } from '../../api/client.ts';
import type { Opening } from './opening.ts';

export interface Filter {
  /** Without one, what is likely to be kept. */
  leastFit: number | undefined;
  orphans: boolean;
  category: boolean;
}

export const EVERYTHING: Filter = { leastFit: 0, orphans: false, category: false };

export function readFilter(search: URLSearchParams): Filter {
  return {
    leastFit: search.has('fit') ? Number(search.get('fit')) || 0 : undefined,
    orphans: search.has('orphans'),
    category: search.has('category'),
  };
}

/** What {@link readFilter} reads as the filter. */
export function writeFilter(filter: Filter): URLSearchParams {
  const search = new URLSearchParams();
  if (filter.leastFit !== undefined) {
    search.set('fit', String(filter.leastFit));
  }
  for (const name of ['orphans', 'category'] as const) {
    if (filter[name]) {
      search.set(name, '');
    }
  }
  return search;
}

/** What of the Desk the filters look at. */
type Page = Pick<Schema['Desk'], 'likely'> & { page: Pick<Schema['Desk']['page'], 'category'> };

export function passes(filter: Filter, desk: Page, opening: Pick<Opening, 'fit' | 'page'>): boolean {
  return (
    opening.fit >= (filter.leastFit ?? desk.likely) &&
    (!filter.orphans || opening.page.is_orphan) &&
    (!filter.category || (desk.page.category ?? null) === (opening.page.category ?? null))
  );
}
