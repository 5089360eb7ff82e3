import { useMutation, useQuery } from '@tanstack/react-query';
import { answer, api, type Schema } from '../../api/client.ts';
import { say } from '../../parts/notices.ts';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import { count, exactMoment, moment } from '../../parts/words.ts';
import { useRefresh } from '../../tray/useTray.ts';
import { Handed, Seen, Worklist } from './HandedOver.tsx';

export function Releases({ site }: { site: number }) {
  const releases = useQuery({
    queryKey: ['site', site, 'releases'],
    queryFn: () => answer(api.GET('/api/sites/{site}/releases', { params: { path: { site } } })),
  });
  if (releases.isError && !releases.data) {
    return <Failed error={releases.error} retry={() => void releases.refetch()} />;
  }
  if (!releases.data) {
    return <Loading what="Looking up the releases" />;
  }
  if (releases.data.length === 0) {
    return (
      <Empty title="Nothing has been released yet.">
        What goes out to the site, or is handed over, is listed here and can be taken back.
      </Empty>
    );
  }
  return (
    <ol className="flex flex-col gap-4">
      {releases.data.map((release) => (
        <Release key={release.release} site={site} release={release} />
      ))}
    </ol>
  );
}

const PHASES: Record<Schema['ReleasePhase'], string> = {
  waiting: 'waits for its turn',
  running: 'on its way',
  interrupted: 'interrupted',
  out: 'out on the site',
  taking_back: 'being taken back',
  taken_back: 'taken back',
};

const HANDED_PHASES: Record<Schema['ReleasePhase'], string> = {
  ...PHASES,
  running: 'being worked out',
  out: 'handed over',
  taken_back: 'withdrawn',
};

function phase(release: Schema['ReleaseRow']): string {
  const nothingOut = release.phase === 'out' && release.pages.every((page) => page.phase === 'held_back');
  return nothingOut ? 'held back' : (release.way === 'handed_over' ? HANDED_PHASES : PHASES)[release.phase];
}

function useReleaseOrders(site: number, release: number) {
  const onSettled = useRefresh(site);
  const params = { path: { site, release } };
  const takeBack = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/releases/{release}/take-back', { params })),
    onSuccess: () => say({ text: `Release ${release} is being taken back.` }),
    onSettled,
  });
  const goOn = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/releases/{release}/go-on', { params })),
    onSuccess: () => say({ text: `Release ${release} goes on.` }),
    onSettled,
  });
  const giveUp = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/releases/{release}/give-up', { params })),
    onSuccess: () => say({ text: 'What had not gone out is in the tray again.' }),
    onSettled,
  });
  const withdraw = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/releases/{release}/withdraw', { params })),
    onSuccess: () => say({ text: 'What was not seen on the site yet is in the tray again.' }),
    onSettled,
  });
  return { takeBack, goOn, giveUp, withdraw };
}

function Release({ site, release }: { site: number; release: Schema['ReleaseRow'] }) {
  const { takeBack, goOn, giveUp, withdraw } = useReleaseOrders(site, release.release);
  const isMoving = ['waiting', 'running', 'taking_back'].includes(release.phase);
  return (
    <li className="rounded-box border border-base-300 bg-base-100" data-testid="release">
      <header className="figures flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 bg-base-200 px-3 py-2">
        <h2 className="font-semibold">Release {release.release}</h2>
        <time dateTime={release.created_at} title={exactMoment(release.created_at)}>
          {moment(release.created_at)}
        </time>
        <span>
          {count(release.links, 'link')} on {count(release.pages.length, 'page')}
        </span>
        <span className={`font-semibold ${release.phase === 'interrupted' ? 'text-accent' : ''}`} role="status">
          {isMoving && <span className="loading loading-dots loading-xs mr-1" aria-hidden="true" />}
          {phase(release)}
          {release.taken_back_at ? ` ${moment(release.taken_back_at)}` : ''}
        </span>
        <span className="ml-auto flex flex-wrap gap-2">
          {release.phase === 'interrupted' && (
            <>
              <button type="button" className="btn btn-sm btn-primary" onClick={() => goOn.mutate()}>
                Go on
              </button>
              <button type="button" className="btn btn-sm btn-ghost border-base-300" onClick={() => giveUp.mutate()}>
                Put the rest back into the tray
              </button>
            </>
          )}
          {release.can_withdraw && <Worklist site={site} release={release.release} />}
          {release.can_withdraw && (
            <button
              type="button"
              className="btn btn-sm btn-ghost border-base-300"
              disabled={withdraw.isPending}
              onClick={() => withdraw.mutate()}
            >
              Withdraw
            </button>
          )}
          {release.can_take_back && (
            <button
              type="button"
              className="btn btn-sm btn-ghost border-base-300"
              disabled={takeBack.isPending}
              onClick={() => takeBack.mutate()}
            >
              Take back
            </button>
          )}
        </span>
      </header>
      {release.way === 'handed_over' && release.phase === 'out' && <Seen release={release} />}
      {release.message && <p className="border-b border-base-300/60 px-3 py-2 text-accent">{release.message}</p>}
      <ul>
        {release.pages.map((page) => (
          <ReleasedPage key={page.page.number} site={site} page={page} way={release.way} />
        ))}
      </ul>
    </li>
  );
}

const PAGE_PHASES: Record<Schema['PagePhase'], string> = {
  waiting: 'waits',
  out: 'out',
  held_back: 'held back',
  taken_back: 'taken back',
  not_taken_back: 'not taken back',
};

interface PageProps {
  site: number;
  page: Schema['ReleasedPage'];
  way: Schema['ReleaseWay'];
}

function ReleasedPage({ site, page, way }: PageProps) {
  const needsAttention = page.phase === 'held_back' || page.phase === 'not_taken_back';
  return (
    <li className="border-b border-base-300/60 px-3 py-2 last:border-b-0">
      <p className="flex flex-wrap items-center gap-x-3">
        <PageName site={site} page={page.page} />
        <a className="link-hover text-primary" href={page.address} target="_blank" rel="noopener noreferrer">
          {page.page.path} <span aria-hidden="true">↗</span>
          <span className="sr-only"> on the live site, in a new tab</span>
        </a>
        {(way === 'written' || needsAttention) && (
          <span className={needsAttention ? 'font-semibold text-accent' : 'text-secondary'}>
            {PAGE_PHASES[page.phase]}
          </span>
        )}
      </p>
      {page.message && <p className="text-accent">{page.message}</p>}
      <ul>
        {page.links.map((link, row) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a page may change the same words for the same target twice
          <li key={row} className="mt-0.5">
            <SentenceText
              sentence={link.sentence}
              carries={page.phase === 'out' && link.doing !== 'unlink' ? 'link' : 'nothing'}
            />
            <span className="ml-2 text-secondary">
              {link.target ? (
                <>
                  {link.doing === 'retarget' ? 'now → ' : '→ '}
                  <PageName site={site} page={link.target} />
                </>
              ) : (
                'link taken off'
              )}
            </span>
            {link.handed && <Handed phase={link.handed} />}
          </li>
        ))}
      </ul>
    </li>
  );
}
