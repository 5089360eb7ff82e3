import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { answer, api, type Schema } from '../api/client.ts';
import { Empty, Failed } from '../parts/states.tsx';
import { count, duration, number } from '../parts/words.ts';

/** What is shown of a site, once the server has it in memory; until then, how far it is. */
export function GettingReady({ site, children }: { site: number; children: ReactNode }) {
  const readiness = useQuery({
    queryKey: ['readiness', site],
    queryFn: () => answer(api.GET('/api/sites/{site}/readiness', { params: { path: { site } } })),
    // The server itself waits a little before it answers that the site is not there yet.
    refetchInterval: (query) => (query.state.data?.state === 'loading' ? 200 : false),
    // Asked anew with each opening of the window. One that is open stays open, whatever becomes of the server: somebody
    // is in the midst of something there.
    gcTime: 0,
    staleTime: 0,
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
  });
  if (readiness.data?.state === 'ready') {
    return children;
  }
  if (readiness.isError) {
    return (
      <main>
        <Failed isView error={readiness.error} retry={() => void readiness.refetch()} />
      </main>
    );
  }
  return readiness.data ? <OnItsWay site={site} readiness={readiness.data} /> : <Opening />;
}

/** Seen only where it takes longer than the blink of an eye. */
function Opening() {
  return (
    <main className="animate-appear-late pt-[12vh]">
      <h1 className="text-center text-secondary">
        <span className="loading loading-dots loading-sm mr-2" aria-hidden="true" />
        Opening the site
      </h1>
    </main>
  );
}

type OnItsWayProps = { site: number; readiness: Extract<Schema['SiteReadiness'], { state: 'loading' }> };

function OnItsWay({ site, readiness: { done, total, seconds_left: left } }: OnItsWayProps) {
  const sites = useQuery({ queryKey: ['sites'], queryFn: () => answer(api.GET('/api/sites')) });
  const name = sites.data?.find((one) => one.id === site)?.name ?? 'the site';
  const others = (sites.data ?? []).filter((one) => one.id !== site);
  return (
    <main className="pt-[12vh]">
      <Empty isView title={`Getting ${name} ready`}>
        <progress
          className="progress progress-primary w-64"
          aria-label="Pages that are ready"
          max={Math.max(total, 1)}
          value={total > 0 ? done : undefined}
        />
        <p className="figures mt-1 min-h-6" data-testid="readiness">
          {said(done, total)}
          {done < total && left ? `, about ${duration(left)} left` : ''}
        </p>
        <p className="mt-3">
          Strelm keeps a site’s words and links in memory, so that every later step is quick. That is done once after
          the server starts, and goes on if you leave.
        </p>
        {others.length > 0 && (
          <p className="mt-3">
            Meanwhile:{' '}
            {others.slice(0, 5).map((one, index) => (
              <span key={one.id}>
                {index > 0 && ', '}
                <Link className="link link-primary" to={`/${one.id}/today`}>
                  {one.name}
                </Link>
              </span>
            ))}
          </p>
        )}
      </Empty>
    </main>
  );
}

function said(done: number, total: number): string {
  if (total === 0) {
    return 'Looking what there is';
  }
  return done < total
    ? `${number(done)} of ${count(total, 'page')}`
    : `All ${count(total, 'page')} are there and are being put in order`;
}
