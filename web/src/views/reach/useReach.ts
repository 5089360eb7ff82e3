// What Reach shows, and how it is asked for.

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api } from '../../api/client.ts';

/** What is worked out in the background is asked for again so soon, in milliseconds. */
export const SOON = 1000;

export function useReachChart(site: number) {
  return useQuery({
    queryKey: ['site', site, 'reach'],
    queryFn: () => answer(api.GET('/api/sites/{site}/reach', { params: { path: { site } } })),
    refetchInterval: (query) => (query.state.data && !query.state.data.is_settled ? SOON : false),
  });
}

/** The reach of one page; nothing is asked while there is none. */
export function usePageReach(site: number, page: number | undefined) {
  return useQuery({
    queryKey: ['site', site, 'reach-page', page],
    queryFn: () =>
      answer(api.GET('/api/sites/{site}/reach/pages/{page}', { params: { path: { site, page: page ?? 0 } } })),
    enabled: page !== undefined,
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data && !state.data.equity ? SOON : false),
    retry: false,
  });
}
