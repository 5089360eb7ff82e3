// The Desk's data, and the decisions that are made on it.

import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { useRef } from 'react';
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
type Undo = { text: string; perform: () => Promise<unknown> };

export function useDecisions(site: number) {
  const refresh = useRefresh(site);
  const undo = useRef<Undo | null>(null);
  const take = useMutation({
    mutationFn: ({ source, target, words_start, words_end, version }: Opening) =>
      answer(
        api.POST('/api/sites/{site}/taken', {
          params: { path: { site } },
          body: { source, target, words_start, words_end, version },
        }),
      ),
    onSuccess: ({ change }, { sentence }) => {
      say({ text: `Taken: “${sentence.anchor}” is in the tray.` });
      undo.current = {
        text: `“${sentence.anchor}” is out of the tray again.`,
        perform: () => answer(api.DELETE('/api/sites/{site}/taken/{change}', { params: { path: { site, change } } })),
      };
    },
    onSettled: refresh,
  });
  const pass = useMutation({
    mutationFn: ({ source, target, sentence }: Opening) =>
      answer(
        api.POST('/api/sites/{site}/passed', {
          params: { path: { site } },
          body: { source, target, anchor: sentence.anchor },
        }),
      ),
    onSuccess: (_, { source, target, sentence }) => {
      say({ text: `Passed: “${sentence.anchor}” is set aside.` });
      undo.current = {
        text: `“${sentence.anchor}” is back among the openings.`,
        perform: () => removePassed(site, source, target),
      };
    },
    onSettled: refresh,
  });
  const bringBack = useMutation({
    mutationFn: ({ source, target }: Schema['PassedRow']) => removePassed(site, source, target),
    onSuccess: (_, { anchor }) => say({ text: `“${anchor}” is back among the openings.` }),
    onSettled: refresh,
  });
  const undoLast = useMutation({
    mutationFn: async () => {
      const last = undo.current;
      undo.current = null;
      await last?.perform();
      return last;
    },
    onSuccess: (last) => say({ text: last ? `Undone: ${last.text}` : 'There is nothing to undo here.' }),
    onSettled: refresh,
  });
  return { take, pass, bringBack, undoLast };
}

function removePassed(site: number, source: number, target: number): Promise<unknown> {
  return answer(
    api.DELETE('/api/sites/{site}/passed/{source}/{target}', { params: { path: { site, source, target } } }),
  );
}
