// The Desk's data, and the decisions that are made on it.

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api, type Schema } from '../../api/client.ts';
import { useDecisions } from '../../decisions/context.ts';

export type Opening = Schema['OpeningRow'];

export function useDesk(site: number, page: number) {
  return useQuery({
    queryKey: ['site', site, 'desk', page],
    queryFn: () => answer(api.GET('/api/sites/{site}/pages/{page}/desk', { params: { path: { site, page } } })),
    placeholderData: keepPreviousData,
  });
}

function pairOf({ source, target }: { source: number; target: number }): string {
  return `${source}-${target}`;
}

/** Taking, passing and bringing back what the Desk offers. */
export function useDeskDecisions() {
  const { decide, hidden } = useDecisions();
  return {
    take: (opening: Opening) => {
      const { source, target, words_start, words_end, version, sentence } = opening;
      decide({ kind: 'take', source, target, words_start, words_end, version }, sentence.anchor, pairOf(opening));
    },
    pass: (opening: Opening) => {
      const { source, target, sentence } = opening;
      decide({ kind: 'pass', source, target, anchor: sentence.anchor }, sentence.anchor, pairOf(opening));
    },
    bringBack: ({ source, target, anchor }: Schema['PassedRow']) =>
      decide({ kind: 'bring_back', source, target }, anchor),
    isDecided: (opening: Opening) => hidden.has(pairOf(opening)),
  };
}
