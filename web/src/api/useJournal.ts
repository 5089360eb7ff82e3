// Follows a site's journal: whatever changed, by whomever, is asked for again.

import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';

/** At most one round of questions in so many milliseconds, however fast the journal grows. */
const PAUSE = 250;

/** Whether the connection stands. */
export function useJournal(site: number): boolean {
  const queries = useQueryClient();
  const [connected, setConnected] = useState(true);
  useEffect(() => {
    const source = new EventSource(`/api/sites/${site}/events`);
    let timer: number | undefined;
    let last = '';
    const refresh = () => {
      timer = undefined;
      void queries.invalidateQueries({ queryKey: ['site', site] });
    };
    source.onopen = () => setConnected(true);
    source.onerror = () => setConnected(false);
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
    };
  }, [site, queries]);
  return connected;
}
