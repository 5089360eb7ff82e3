// Links in their sentences: those that say a text, or lead to a host or an address.

import { useInfiniteQuery } from '@tanstack/react-query';
import { answer, api, type Schema } from '../api/client.ts';

export type Place = Schema['AnchorPlaceRow'];
export type Asked = Schema['AskedLinks'];

/** Links of a window, and of one where all are wanted. */
const AT_ONCE = 50;
const MOST_AT_ONCE = 200;

/** Links that are changed with one press, at most. */
export const MOST_MENDED = 5000;

export function useLinkPlaces(site: number, asked: Asked) {
  const query = useInfiniteQuery({
    queryKey: ['site', site, 'link-places', asked],
    queryFn: ({ pageParam }) => places(site, asked, pageParam, AT_ONCE),
    initialPageParam: 0,
    // Texts on their way are told as they come.
    refetchInterval: ({ state }) => (state.data?.pages[0]?.texts_to_come ? 1000 : false),
    getNextPageParam: (last, all) => (all.length * AT_ONCE < last.total ? all.length * AT_ONCE : undefined),
  });
  const windows = query.data?.pages ?? [];
  return {
    total: windows[0]?.total,
    places: windows.flatMap((window) => window.places),
    isLooking: query.isPending,
    error: query.error,
    retry: () => void query.refetch(),
    more: query.hasNextPage ? () => void query.fetchNextPage() : undefined,
    isMoreComing: query.isFetchingNextPage,
  };
}

function places(site: number, asked: Asked, offset: number, limit: number) {
  const params = { path: { site }, query: { offset, limit } };
  return answer(api.POST('/api/sites/{site}/anchors/places', { params, body: asked }));
}

/** The links from the `first` on, up to so many that can be changed together. */
export async function placesFrom(site: number, asked: Asked, first: number): Promise<Place[]> {
  const found: Place[] = [];
  for (let offset = first; offset < first + MOST_MENDED; offset += MOST_AT_ONCE) {
    const window = await places(site, asked, offset, MOST_AT_ONCE);
    found.push(...window.places);
    if (offset + MOST_AT_ONCE >= window.total) {
      break;
    }
  }
  return found.slice(0, MOST_MENDED);
}

/** Whether a link can be changed from here. */
export function canMend(place: Place): boolean {
  return place.version !== null && place.version !== undefined && !place.is_picture && !place.is_planned;
}

/** By which a link is known while it is on its way into the tray. */
export function keyOf(place: Place): string {
  return `link-${place.page.number}-${place.link ?? 'around'}`;
}
