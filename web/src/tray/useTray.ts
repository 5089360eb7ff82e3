// The tray's rows, and releasing them.

import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';
import { answer, api, type Schema } from '../api/client.ts';
import { refresh } from '../api/stale.ts';
import { say } from '../parts/notices.ts';

export function trayRows(site: number) {
  return queryOptions({
    queryKey: ['site', site, 'tray'],
    queryFn: () => answer(api.GET('/api/sites/{site}/tray', { params: { path: { site } } })),
  });
}

/** After a change everything that depends on it is asked for again at once, without waiting for the journal. */
export function useRefresh(site: number): () => Promise<void> {
  const queries = useQueryClient();
  return () => refresh(queries, site, 'everything');
}

export function useRelease(site: number, way: Schema['ReleaseWay'] | undefined) {
  const refresh = useRefresh(site);
  return useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/releases', { params: { path: { site } } })),
    onSuccess: () =>
      say(
        way === 'handed_over'
          ? { text: 'The tray is handed over.', link: { to: `/${site}/history`, text: 'Get the list in History' } }
          : {
              text: 'The tray is on its way to the site.',
              link: { to: `/${site}/history`, text: 'See it in History' },
            },
      ),
    onSettled: refresh,
  });
}
