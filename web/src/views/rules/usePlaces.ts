// The places of rules, while pages are looked at: each line of the answer is news.

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { readLines } from '../../api/readLines.ts';

export type PlacePage = Schema['PageWithPlaces'];
export type Place = Schema['PlaceRow'];

export interface Places {
  /** Pages that were looked at, of how many. */
  done: number;
  of: number;
  pages: readonly PlacePage[];
  /** All together, once all pages were looked at. */
  summed: Schema['PlacesSummed'] | undefined;
}

export interface Asked {
  rules: number[];
  draft: Schema['RuleWish'] | undefined;
  /** On these pages alone. */
  pages?: number[] | undefined;
}

const NOTHING: Places = { done: 0, of: 0, pages: [], summed: undefined };

/** Nothing is asked for while there is no question. While a new one is answered, the answer before stays. */
export function usePlaces(site: number, asked: Asked | undefined) {
  const of = JSON.stringify(asked ?? null);
  const [news, setNews] = useState<{ of: string; places: Places }>({ of: '', places: NOTHING });
  const query = useQuery({
    queryKey: ['site', site, 'rule-places', of],
    queryFn: async ({ signal }) => {
      let places = NOTHING;
      for await (const line of placeNews(site, asked ?? { rules: [], draft: undefined }, signal)) {
        places = withNews(places, line);
        setNews({ of, places });
      }
      return places;
    },
    enabled: asked !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 60_000,
  });
  const isLooking = query.isFetching;
  const coming = isLooking && news.of === of && news.places.pages.length > 0 ? news.places : undefined;
  return {
    places: asked === undefined ? undefined : (coming ?? query.data),
    /** Whether what is shown is of the question before. */
    isOld: query.isPlaceholderData && !coming,
    isLooking,
    progress: isLooking && news.of === of ? news.places : undefined,
    error: query.error,
    retry: () => void query.refetch(),
  };
}

function withNews(places: Places, news: Schema['PlaceNews']): Places {
  switch (news.kind) {
    case 'pages':
      return { ...places, done: news.done, of: news.of, pages: [...places.pages, ...news.pages] };
    case 'done':
      return { ...places, summed: news };
    case 'failed':
      throw new Error(news.message);
  }
}

async function* placeNews(site: number, asked: Asked, signal: AbortSignal): AsyncGenerator<Schema['PlaceNews']> {
  const stream = await answer(
    api.POST('/api/sites/{site}/rules/places', {
      params: { path: { site } },
      body: { rules: asked.rules, draft: asked.draft ?? null, pages: asked.pages ?? null },
      signal,
      parseAs: 'stream',
    }),
  );
  for await (const line of readLines(stream as unknown as ReadableStream<Uint8Array>)) {
    yield JSON.parse(line) as Schema['PlaceNews'];
  }
}
