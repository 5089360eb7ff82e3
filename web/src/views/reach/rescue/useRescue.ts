// A plan of rescue while it is looked for: each line of the answer is news.

import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { answer, api, type Schema } from '../../../api/client.ts';
import { readLines } from '../../../api/readLines.ts';
import type { Limits } from '../reachWish.ts';

export type RescuePlan = Schema['RescuePlan'];
export type KeptRow = Schema['KeptRow'];

/** Seconds for which a plan is looked for, at first and when the editor wants to wait. */
const AT_FIRST = 2;
const LONGER = 30;

/** What there is of a plan. */
export interface Found {
  looking: { done: number; of: number } | undefined;
  plan: RescuePlan | undefined;
  effect: Schema['RescueEffect'] | undefined;
}

export interface Rescue extends Found {
  isLooking: boolean;
  error: Error | null;
  /** Rows that the editor wants in every plan, as `source-target`, each with its words. */
  kept: ReadonlyMap<string, KeptRow>;
  keep: (key: string, row: KeptRow | undefined) => void;
  /** Ends it with the plan that there is. */
  stop: () => void;
  /** Looks for a better one for half a minute. */
  goOn: () => void;
  retry: () => void;
}

const NOTHING: Found = { looking: undefined, plan: undefined, effect: undefined };

export function useRescue(site: number, limits: Limits): Rescue {
  const queries = useQueryClient();
  const [kept, setKept] = useState<ReadonlyMap<string, KeptRow>>(new Map());
  const [patience, setPatience] = useState<{ of: string; seconds: number }>();
  const asked = useMemo(
    () => ({
      pages: limits.pages,
      second_way: limits.secondWay,
      depth: limits.depth,
      links_in: limits.linksIn,
      per_page: limits.perPage,
      least_fit: limits.fit,
      same_category: limits.sameCategory,
      both_ways: !limits.oneWay,
      prefer_equity: limits.equity,
      untouched: limits.untouched,
      kept: [...kept.values()],
    }),
    [limits, kept],
  );
  const of = JSON.stringify(asked);
  const seconds = patience?.of === of ? patience.seconds : AT_FIRST;
  const key = ['site', site, 'rescue', of, seconds];
  const [news, setNews] = useState<{ of: string; found: Found }>({ of: '', found: NOTHING });
  const query = useQuery({
    queryKey: key,
    queryFn: async ({ signal }) => {
      let found = NOTHING;
      for await (const line of rescueNews(site, { ...asked, seconds }, signal)) {
        found = withNews(found, line);
        setNews({ of, found });
      }
      return found;
    },
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });
  const isLooking = query.isFetching;
  // While a plan is looked for anew, the one before stays until there is something better to show.
  const coming = isLooking && news.of === of ? news.found : undefined;
  const known = query.data ?? NOTHING;
  const shown: Found = coming?.plan
    ? {
        looking: coming.looking,
        plan: coming.plan,
        effect: coming.effect ?? (coming.plan.is_final ? known.effect : undefined),
      }
    : { ...known, looking: coming?.looking };
  const isLeft = !isLooking && (query.data === undefined || query.isPlaceholderData);
  const stopped = isLeft && news.of === of && news.found.plan ? news.found : undefined;
  return {
    ...(stopped ?? shown),
    isLooking,
    error: query.error,
    kept,
    keep: (row, words) =>
      setKept((before) => {
        const after = new Map(before);
        if (words) {
          after.set(row, words);
        } else {
          after.delete(row);
        }
        return after;
      }),
    stop: () => void queries.cancelQueries({ queryKey: key }),
    goOn: () => setPatience({ of, seconds: LONGER }),
    retry: () => void query.refetch(),
  };
}

function withNews(found: Found, news: Schema['RescueNews']): Found {
  switch (news.kind) {
    case 'looking':
      return { ...found, looking: { done: news.done, of: news.of } };
    case 'plan':
      return { ...found, plan: news };
    case 'effect':
      return { ...found, effect: news };
    case 'failed':
      throw new Error(news.message);
  }
}

async function* rescueNews(
  site: number,
  body: Schema['RescueWish'],
  signal: AbortSignal,
): AsyncGenerator<Schema['RescueNews']> {
  const stream = await answer(
    api.POST('/api/sites/{site}/reach/rescue', { params: { path: { site } }, body, signal, parseAs: 'stream' }),
  );
  for await (const line of readLines(stream as unknown as ReadableStream<Uint8Array>)) {
    yield JSON.parse(line) as Schema['RescueNews'];
  }
}
