// Follows a site's journal: whatever changed, by whomever, is asked for again.

import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';

/** At most one round of questions in so many milliseconds, however fast the journal grows. */
const PAUSE = 250;

/** Before a connection is made anew that the browser gave up. */
const RETRY = 2000;

/** Whether the connection stands. `onBack` is called each time that it is there (again). */
export function useJournal(site: number, onBack: () => void): boolean {
  const queries = useQueryClient();
  const [connected, setConnected] = useState(true);
  const [round, setRound] = useState(0);
  const back = useRef(onBack);
  back.current = onBack;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new round makes a new connection
  useEffect(() => {
    const source = new EventSource(`/api/sites/${site}/events`);
    let timer: number | undefined;
    let again: number | undefined;
    let last = '';
    const refresh = () => {
      timer = undefined;
      void queries.invalidateQueries({ queryKey: ['site', site] });
    };
    source.onopen = () => {
      setConnected(true);
      back.current();
    };
    source.onerror = () => {
      setConnected(false);
      // Some answers make a browser give up for good.
      if (source.readyState === EventSource.CLOSED) {
        again = window.setTimeout(() => setRound((round) => round + 1), RETRY);
      }
    };
    source.onmessage = (event: MessageEvent<string>) => {
      // The first event tells where the journal stands; the same number again, after a lost connection, is no news.
      if (last !== '' && event.data !== last) {
        timer ??= window.setTimeout(refresh, PAUSE);
      }
      last = event.data;
    };
    return () => {
      source.close();
      window.clearTimeout(timer);
      window.clearTimeout(again);
    };
  }, [site, queries, round]);
  return connected;
}
