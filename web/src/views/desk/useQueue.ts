// The pages to go through, one after the other, without going back to a list.

import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { answer, api } from '../../api/client.ts';
import { keep, recall } from '../../parts/browserStorage.ts';

const MOST = 200;

function seen(site: number): number[] {
  try {
    const kept: unknown = JSON.parse(recall('sessionStorage', `strelm.seen.${site}`) ?? '[]');
    return Array.isArray(kept) ? kept.map(Number) : [];
  } catch {
    return [];
  }
}

/** The page with the most to gain that was not looked at in this tab yet, and how many there are. */
export function useQueue(site: number, page: number) {
  useEffect(() => {
    const pages = seen(site).filter((other) => other !== page);
    keep('sessionStorage', `strelm.seen.${site}`, JSON.stringify([...pages, page].slice(-1000)));
  }, [site, page]);
  const query = useQuery({
    queryKey: ['site', site, 'queue'],
    queryFn: () =>
      answer(
        api.GET('/api/sites/{site}/pages', {
          params: { path: { site }, query: { only: 'offered', sort: 'attention', descending: true, limit: MOST } },
        }),
      ),
  });
  const looked = new Set([...seen(site), page]);
  const waiting = (query.data?.rows ?? []).filter((row) => !looked.has(row.number));
  return { next: waiting[0], left: Math.max(0, waiting.length) };
}
