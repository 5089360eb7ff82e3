// The Desk's data, and the decisions that are made on it.

import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { say } from '../../parts/notices.ts';
import { useRefresh } from '../../tray/useTray.ts';

export type Opening = Schema['OpeningRow'];

export function useDesk(site: number, page: number) {
  return useQuery({
    queryKey: ['site', site, 'desk', page],
    queryFn: () => answer(api.GET('/api/sites/{site}/pages/{page}/desk', { params: { path: { site, page } } })),
    placeholderData: keepPreviousData,
  });
}

/** The last decision, and how it is undone. */
type Undo = { pair: string; text: string; perform: () => Promise<unknown> };

/** Decisions go to the server one after the other, however fast they are made. */
const IN_ORDER = { id: 'decisions' };

function pairOf({ source, target }: { source: number; target: number }): string {
  return `${source}-${target}`;
}

/** Openings that were decided on go from sight at once, before the server has answered. */
function useDecided(desk: Schema['Desk'] | undefined) {
  const [decided, setDecided] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    // What the server does not offer any more need not be hidden; if it is brought back later, it shows again.
    const offered = new Set([...(desk?.openings_in ?? []), ...(desk?.openings_out ?? [])].map(pairOf));
    setDecided((before) => new Set([...before].filter((pair) => offered.has(pair))));
  }, [desk]);
  return {
    isDecided: (opening: Opening) => decided.has(pairOf(opening)),
    hide: (opening: Opening) => setDecided((before) => new Set([...before, pairOf(opening)])),
    show: (shown: string) => setDecided((before) => new Set([...before].filter((pair) => pair !== shown))),
  };
}

export function useDecisions(site: number, desk: Schema['Desk'] | undefined) {
  const refresh = useRefresh(site);
  const undo = useRef<Undo | null>(null);
  const { isDecided, hide, show } = useDecided(desk);
  const inOrder = { scope: IN_ORDER, onSettled: () => void refresh() };
  const decision = { ...inOrder, onMutate: hide, onError: (_: Error, opening: Opening) => show(pairOf(opening)) };
  const take = useMutation({
    ...decision,
    mutationFn: ({ source, target, words_start, words_end, version }: Opening) =>
      answer(
        api.POST('/api/sites/{site}/taken', {
          params: { path: { site } },
          body: { source, target, words_start, words_end, version },
        }),
      ),
    onSuccess: ({ change }, opening) => {
      const words = opening.sentence.anchor;
      say({ text: `Taken: “${words}” is in the tray.` });
      undo.current = {
        pair: pairOf(opening),
        text: `“${words}” is out of the tray again.`,
        perform: () => answer(api.DELETE('/api/sites/{site}/taken/{change}', { params: { path: { site, change } } })),
      };
    },
  });
  const pass = useMutation({
    ...decision,
    mutationFn: ({ source, target, sentence }: Opening) =>
      answer(
        api.POST('/api/sites/{site}/passed', {
          params: { path: { site } },
          body: { source, target, anchor: sentence.anchor },
        }),
      ),
    onSuccess: (_, opening) => {
      const words = opening.sentence.anchor;
      say({ text: `Passed: “${words}” is set aside.` });
      undo.current = {
        pair: pairOf(opening),
        text: `“${words}” is back among the openings.`,
        perform: () => removePassed(site, opening.source, opening.target),
      };
    },
  });
  const bringBack = useMutation({
    ...inOrder,
    mutationFn: ({ source, target }: Schema['PassedRow']) => removePassed(site, source, target),
    onSuccess: (_, passed) => {
      show(pairOf(passed));
      say({ text: `“${passed.anchor}” is back among the openings.` });
    },
  });
  const undoLast = useMutation({
    ...inOrder,
    mutationFn: async () => {
      const last = undo.current;
      undo.current = null;
      await last?.perform();
      return last;
    },
    onSuccess: (last) => {
      if (last) {
        show(last.pair);
      }
      say({ text: last ? `Undone: ${last.text}` : 'There is nothing to undo here.' });
    },
  });
  return { take, pass, bringBack, undoLast, isDecided };
}

function removePassed(site: number, source: number, target: number): Promise<unknown> {
  return answer(
    api.DELETE('/api/sites/{site}/passed/{source}/{target}', { params: { path: { site, source, target } } }),
  );
}
