// The openings that the Desk shows: without what is decided on, with the fits that were seen, through the filters.

import { useMemo, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import type { Numbered, Shown } from './deskState.ts';
import { type Filter, passes } from './filter.ts';
import { asSeen, inSeenOrder, NOTHING_SEEN, type Opening, withSeen } from './opening.ts';

interface DeskRows {
  /** Those that pass the filters. */
  shown: Shown;
  /** All that are not decided on. */
  all: Shown;
}

const NONE: Shown = { in: [], out: [] };

export function useDeskRows(
  desk: Schema['Desk'] | undefined,
  filter: Filter,
  isDecided: (opening: Opening) => boolean,
): DeskRows {
  const [before, setSeen] = useState(NOTHING_SEEN);
  const seen = desk ? withSeen(before, desk.openings_in, desk.openings_out) : before;
  if (seen !== before) {
    setSeen(seen);
  }
  const known = useMemo(() => {
    if (!desk) {
      return NONE;
    }
    // Numbers are those of the marks in the text, so they stay when an opening before them goes.
    const numbered = (openings: readonly Opening[]): Numbered[] =>
      openings.map((opening, row) => ({ opening: asSeen(seen, opening), number: row + 1 }));
    return { in: numbered(inSeenOrder(seen, desk.openings_in)), out: numbered(desk.openings_out) };
  }, [desk, seen]);
  const { leastFit, orphans, category } = filter;
  return useMemo(() => {
    const left = (rows: readonly Numbered[]) => rows.filter(({ opening }) => !isDecided(opening));
    const all = { in: left(known.in), out: left(known.out) };
    const through = (rows: readonly Numbered[]) =>
      rows.filter(({ opening }) => desk && passes({ leastFit, orphans, category }, desk, opening));
    return { all, shown: { in: through(all.in), out: through(all.out) } };
  }, [known, desk, isDecided, leastFit, orphans, category]);
}
