import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { answer, api, type Schema } from '../../api/client.ts';
import { LostPages } from '../../parts/LostPages.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import { count, exactMoment, moment, number } from '../../parts/words.ts';

type Reading = Schema['ReadingStatus'];
type Outcome = 'new' | 'changed' | 'moved' | 'vanished' | 'failed' | 'left_out';

/** Readings with what each found, told apart. */
export function Readings({ site }: { site: number }) {
  const readings = useQuery({
    queryKey: ['site', site, 'readings'],
    queryFn: () => answer(api.GET('/api/sites/{site}/readings', { params: { path: { site } } })),
  });
  if (readings.isError && !readings.data) {
    return <Failed error={readings.error} retry={() => void readings.refetch()} />;
  }
  if (!readings.data) {
    return <Loading what="Looking up the readings" />;
  }
  if (readings.data.length === 0) {
    return <Empty title="The site was not read yet.">Press Read again at the top to read it.</Empty>;
  }
  return (
    <ol className="flex flex-col gap-3">
      {readings.data.map((reading, at) => (
        <ReadingItem key={reading.reading} site={site} reading={reading} isFirst={at === readings.data.length - 1} />
      ))}
    </ol>
  );
}

const PHASES: Record<Schema['ReadingPhase'], string> = {
  waiting: 'waits for a worker',
  running: 'under way',
  stopping: 'is stopping',
  stopped: 'stopped',
  asking: 'waits for your word',
  done: 'done',
  failed: 'broke off',
};

function ReadingItem({ site, reading, isFirst }: { site: number; reading: Reading; isFirst: boolean }) {
  const [shown, setShown] = useState<Outcome>();
  const outcomes: [Outcome, number | null, string][] = [
    ['new', isFirst ? null : reading.fresh, 'new'],
    ['changed', reading.changed, 'changed'],
    ['moved', reading.moved, 'moved'],
    ['vanished', reading.vanished, 'vanished'],
    ['failed', reading.failures - reading.vanished, 'gave nothing'],
    ['left_out', null, 'left out'],
  ];
  return (
    <li className="rounded-box border border-base-300 bg-base-100" data-testid="reading">
      <header className="figures flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 bg-base-200 px-3 py-2">
        <h2 className="font-semibold">Reading {reading.reading}</h2>
        <time dateTime={reading.created_at} title={exactMoment(reading.created_at)}>
          {moment(reading.created_at)}
        </time>
        <span>
          {count(reading.pages, 'page')}, {count(reading.files, 'file')}
        </span>
        <span className="font-semibold" role="status">
          {PHASES[reading.phase]}
        </span>
      </header>
      {reading.message && <p className="px-3 pt-2 text-accent">{reading.message}</p>}
      {reading.phase === 'asking' && (
        <p className="flex gap-2 px-3 pt-2">
          <LostPages site={site} reading={reading.reading} />
        </p>
      )}
      <div className="figures flex flex-wrap gap-2 px-3 py-2">
        {outcomes.map(([outcome, n, name]) => (
          <button
            key={outcome}
            type="button"
            aria-expanded={shown === outcome}
            disabled={n === 0}
            className={`btn btn-xs rounded-full ${shown === outcome ? 'btn-primary' : 'btn-ghost border-base-300'}`}
            onClick={() => setShown(shown === outcome ? undefined : outcome)}
          >
            {n === null ? name : `${number(n)} ${name}`}
          </button>
        ))}
      </div>
      {shown && <Told site={site} reading={reading.reading} outcome={shown} />}
    </li>
  );
}

function Told({ site, reading, outcome }: { site: number; reading: number; outcome: Outcome }) {
  const told = useQuery({
    queryKey: ['site', site, 'told', reading, outcome],
    queryFn: () =>
      answer(
        api.GET('/api/sites/{site}/readings/{reading}/told', {
          params: { path: { site, reading }, query: { outcome } },
        }),
      ),
  });
  if (told.isError) {
    return <Failed error={told.error} retry={() => void told.refetch()} />;
  }
  if (!told.data) {
    return <Loading what="Looking it up" />;
  }
  if (told.data.length === 0) {
    return <p className="px-3 pb-2 text-secondary">None, or the details of this reading are no longer kept.</p>;
  }
  return (
    <ul className="px-3 pb-2">
      {told.data.map((row) => (
        <li key={row.address} className="flex flex-wrap items-baseline gap-x-3 py-0.5">
          {row.page && <PageName site={site} page={row.page} />}
          <span className="break-all text-secondary">{row.address}</span>
          {row.note && (
            <span>
              {outcome === 'moved' ? '→ ' : ''}
              {row.note}
            </span>
          )}
        </li>
      ))}
    </ul>
  );
}
