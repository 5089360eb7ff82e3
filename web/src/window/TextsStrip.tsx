import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { refresh } from '../api/stale.ts';
import { number } from '../parts/words.ts';
import { useSite, useSiteStatus } from './useSite.ts';

/** Says that the texts of a large site are still on their way into the server's memory, and openings with them. */
export function TextsStrip() {
  const status = useSiteStatus().data;
  useFollowed();
  const left = status?.texts_to_come;
  if (!status || left === null || left === undefined) {
    return null;
  }
  const all = Math.max(status.pages, left, 1);
  return (
    <section
      aria-label="Texts on their way"
      className="figures flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-base-300 bg-depth-0 px-4 py-1 text-depth-ink-0"
    >
      <span data-testid="texts">
        {left > 0
          ? `Texts on their way into memory: ${number(all - left)} of ${number(all)}`
          : 'All texts are in memory, and their words are being counted'}
      </span>
      <progress
        className="progress progress-primary w-40"
        aria-label="Texts in memory"
        max={all}
        value={left > 0 ? all - left : undefined}
      />
      <span>Openings come when they are there. All else is ready.</span>
    </section>
  );
}

/** What the server works out by and by stands in no journal: when it is done, all that is shown is asked for once more. */
function useFollowed() {
  const site = useSite();
  const queries = useQueryClient();
  const status = useSiteStatus().data;
  const lacks = status && (status.texts_to_come !== null || status.openings_waiting > 0);
  const lacked = useRef(false);
  useEffect(() => {
    if (lacked.current && lacks === false) {
      void refresh(queries, site, 'everything');
    }
    lacked.current = lacks ?? false;
  }, [lacks, queries, site]);
}
