// What is set for the edges of a site, and which of them run.

import { useMutation, useQuery } from '@tanstack/react-query';
import { answer, api, type Schema } from '../../api/client.ts';
import { say } from '../../parts/notices.ts';
import { useRefresh } from '../../tray/useTray.ts';

export type Edge = Schema['EdgeShown'];
export type EdgeWish = Schema['EdgeWish'];
export type Footer = Schema['FooterWish'];

/** Edges come and go without a word: they are looked for so often, in milliseconds. */
const LOOKS_EVERY = 10_000;

export function useEdge(site: number) {
  return useQuery({
    queryKey: ['site', site, 'edge'],
    queryFn: () => answer(api.GET('/api/sites/{site}/edge', { params: { path: { site } } })),
    refetchInterval: LOOKS_EVERY,
  });
}

/** Sets it; what was set before comes back from the notice that tells of it. */
export function useSetEdge(site: number) {
  const refresh = useRefresh(site);
  const put = (body: EdgeWish) => answer(api.PUT('/api/sites/{site}/edge', { params: { path: { site } }, body }));
  return useMutation({
    mutationFn: ({ wish }: { wish: EdgeWish; before: EdgeWish; done: string }) => put(wish),
    onSuccess: async (_, { before, done }) => {
      const undo = () =>
        void put(before)
          .then(refresh)
          .catch((error: Error) => say({ text: error.message, isError: true }));
      say({ text: done, act: { text: 'Undo', press: undo } });
      await refresh();
    },
  });
}

/** What is set, without the rest that is shown. */
export function wishOf({ carries, footer }: Edge): EdgeWish {
  return { carries, footer };
}
