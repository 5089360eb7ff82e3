// Mentions of phrases, a window of pages at a time.

import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { answer, api, type Schema } from '../../api/client.ts';
import { bodyOf, filterOf, phrasesOf, type Question } from './question.ts';

export type Mention = Schema['MentionRow'];
export type MentionPage = Schema['PageWithMentions'];

/** Pages of a window. */
const AT_ONCE = 15;

/** Nothing is asked for while there are no phrases. While a new question is answered, the answer before stays. */
export function useMentions(site: number, question: Question) {
  const [body, filter] = [bodyOf(question), filterOf(question)];
  const isAsked = phrasesOf(question).length > 0;
  const query = useInfiniteQuery({
    queryKey: ['site', site, 'mentions', body, filter],
    queryFn: async ({ pageParam, signal }) =>
      answer(
        api.POST('/api/sites/{site}/mentions', {
          params: { path: { site }, query: { ...filter, offset: pageParam, limit: AT_ONCE } },
          body,
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, all) => (all.length * AT_ONCE < last.pages ? all.length * AT_ONCE : undefined),
    enabled: isAsked,
    placeholderData: keepPreviousData,
    retry: false,
    // Texts on their way are counted as they come.
    refetchInterval: ({ state }) => (state.data?.pages[0]?.texts_to_come ? 2000 : false),
  });
  const windows = isAsked ? (query.data?.pages ?? []) : [];
  return {
    /** The counts, which are those of the latest window. */
    found: windows.at(-1),
    pages: windows.flatMap((window) => window.rows),
    isOld: query.isPlaceholderData,
    isLooking: isAsked && query.isFetching,
    error: isAsked ? query.error : null,
    retry: () => void query.refetch(),
    more: query.hasNextPage ? () => void query.fetchNextPage() : undefined,
    isMoreComing: query.isFetchingNextPage,
  };
}

/** All mentions of one page, where more than the first are asked for. */
export async function allOfPage(site: number, question: Question, page: number): Promise<MentionPage | undefined> {
  const { rows } = await answer(
    api.POST('/api/sites/{site}/mentions', {
      params: { path: { site }, query: filterOf(question) },
      body: { ...bodyOf(question), pages: [page] },
    }),
  );
  return rows[0];
}
