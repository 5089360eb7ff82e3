// The site that the window shows, and its status.

import { queryOptions, useQuery } from '@tanstack/react-query';
import { useParams } from 'react-router';
import { answer, api } from '../api/client.ts';

/** The number in the address bar. */
export function useSite(): number {
  return Number(useParams().site);
}

export function siteStatus(site: number) {
  return queryOptions({
    queryKey: ['site', site, 'status'],
    queryFn: () => answer(api.GET('/api/sites/{site}', { params: { path: { site } } })),
    // What is worked out in the background stands in no journal.
    refetchInterval: (query) => {
      const status = query.state.data;
      const lacksTexts = status !== undefined && status.texts_to_come !== null;
      return lacksTexts ? 1000 : status && status.openings_waiting > 0 ? 3000 : false;
    },
  });
}

export function useSiteStatus() {
  return useQuery(siteStatus(useSite()));
}
