// The Desk's data, and the decisions that are made on it.

import { keepPreviousData, queryOptions, useQuery } from '@tanstack/react-query';
import { useCallback } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { useDecisions } from '../../decisions/context.ts';
import { keyOf, type Opening } from './opening.ts';

export type Scope = Schema['PassScope'];

/** A link to put on words or a picture: an opening, or what the editor chose. */
export interface Taking {
  source: number;
  target: number;
  version: string;
  start: number;
  end: number;
  anchor: string;
  wording?: Schema['WordingWish'];
  /** Number of the picture on its page, in place of words. */
  picture?: number;
}

export function useDesk(site: number, page: number) {
  return useQuery({
    queryKey: ['site', site, 'desk', page],
    queryFn: () => answer(api.GET('/api/sites/{site}/pages/{page}/desk', { params: { path: { site, page } } })),
    placeholderData: keepPreviousData,
  });
}

/** Why an opening fits; asked for when somebody wants to know. */
export function reasonsOf(site: number, opening: Opening) {
  const { source, target, words_start: start, words_end: end, version } = opening;
  return queryOptions({
    queryKey: ['site', site, 'reasons', source, target, start, end, version],
    queryFn: () =>
      answer(
        api.GET('/api/sites/{site}/openings/reasons', {
          params: { path: { site }, query: { source, target, start, end } },
        }),
      ),
  });
}

/** Words of a page by their place, or as they were selected; or a picture by its number. */
export type Words =
  | { start: number; end: number }
  | { anchor: string; before: string; after: string }
  | { picture: number };

/** What else could be done with words, or a picture, of a page. */
export function around(site: number, source: number, words: Words, target: number | undefined) {
  return queryOptions({
    queryKey: ['site', site, 'around', source, words, target],
    queryFn: () =>
      answer(
        api.GET('/api/sites/{site}/openings/around', {
          params: { path: { site }, query: { source, ...words, ...(target === undefined ? {} : { target }) } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** Pages that are about the same, with the paragraph after which a sentence would lead there. */
export function bridges(site: number, page: number, inbound: boolean) {
  return queryOptions({
    queryKey: ['site', site, 'bridges', page, inbound],
    queryFn: () =>
      answer(api.GET('/api/sites/{site}/openings/bridges', { params: { path: { site }, query: { page, inbound } } })),
  });
}

function wishOf(
  { source, target, version, start, end, wording, picture }: Taking,
  byHand: boolean,
): Schema['TakeWish'] {
  return {
    source,
    target,
    words_start: start,
    words_end: end,
    version,
    by_hand: byHand,
    ...(wording ? { wording } : {}),
    ...(picture === undefined ? {} : { picture }),
  };
}

function takingOf(opening: Opening): Taking {
  const { source, target, version, words_start: start, words_end: end, sentence } = opening;
  return { source, target, version, start, end, anchor: sentence.anchor };
}

/** An opening in each page that has its sentence. */
function everywhere(opening: Opening): Opening[] {
  return [opening, ...opening.also.map((place) => ({ ...opening, ...place, also: [] }))];
}

/** Taking, passing and bringing back what the Desk offers. */
export function useDeskDecisions() {
  const { decide, hidden } = useDecisions();
  const isDecided = useCallback(
    (opening: Opening) => hidden.has(keyOf(opening)) || hidden.has(`*-${opening.target}`),
    [hidden],
  );
  return {
    isDecided,
    /** With all other pages that have the very same sentence. */
    take: (opening: Opening) =>
      decide(
        { kind: 'take', links: everywhere(opening).map((one) => wishOf(takingOf(one), false)) },
        opening.sentence.anchor,
        everywhere(opening).map(keyOf),
      ),
    takeByHand: (taking: Taking) =>
      decide({ kind: 'take', links: [wishOf(taking, true)] }, taking.wording?.anchor ?? taking.anchor, [keyOf(taking)]),
    takeMany: (openings: Opening[]) =>
      decide(
        { kind: 'take', links: openings.map((opening) => wishOf(takingOf(opening), false)) },
        openings.length === 1 ? (openings[0]?.sentence.anchor ?? '') : `${openings.length} links`,
        openings.map(keyOf),
      ),
    pass: (opening: Opening, scope: Scope) => {
      for (const one of scope === 'page' ? [opening] : everywhere(opening)) {
        const { source, target, words_start, words_end, sentence } = one;
        decide(
          { kind: 'pass', source, target, words_start, words_end, scope, anchor: sentence.anchor },
          sentence.anchor,
          scope === 'page' ? [`*-${target}`] : [keyOf(one)],
        );
      }
    },
    bringBack: ({ passed, anchor }: Schema['PassedRow']) => decide({ kind: 'bring_back', passed }, anchor),
  };
}
