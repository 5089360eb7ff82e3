// Looking at what was typed, after a pause.

import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';

export type SourceWish = Schema['SourceWish'];

const PAUSE = 500;

export interface Looked {
  look: Schema['Look'] | undefined;
  isLooking: boolean;
  error: string | undefined;
}

export function useLook(source: SourceWish, isTyped: boolean): Looked {
  const typed = JSON.stringify(source);
  const [settled, setSettled] = useState(typed);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(typed), PAUSE);
    return () => window.clearTimeout(timer);
  }, [typed]);
  const query = useQuery({
    queryKey: ['look', settled],
    queryFn: () => answer(api.POST('/api/sites/look', { body: JSON.parse(settled) as SourceWish })),
    enabled: isTyped,
    staleTime: 0,
    gcTime: 0,
    retry: false,
  });
  const isSettled = typed === settled;
  return {
    look: isTyped && isSettled ? query.data : undefined,
    isLooking: isTyped && (!isSettled || query.isFetching),
    error: isTyped && isSettled ? query.error?.message : undefined,
  };
}
