import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { answer, api } from '../api/client.ts';

/** Pages of any kind that are found by their title, address or words; nothing is asked for without a text. */
export function useFoundPages(site: number, text: string) {
  return useQuery({
    queryKey: ['site', site, 'find', text],
    queryFn: () => answer(api.GET('/api/sites/{site}/find', { params: { path: { site }, query: { text } } })),
    enabled: text !== '',
    placeholderData: keepPreviousData,
  });
}
