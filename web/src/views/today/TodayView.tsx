import { useMutation, useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { answer, api, type Schema } from '../../api/client.ts';
import { LostPages } from '../../parts/LostPages.tsx';
import { say } from '../../parts/notices.ts';
import { PageName } from '../../parts/PageName.tsx';
import { Empty, Failed, Loading } from '../../parts/states.tsx';
import { count, number } from '../../parts/words.ts';
import { useRefresh } from '../../tray/useTray.ts';
import { useSite, useSiteStatus } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { BestOpenings } from './BestOpenings.tsx';
import { FaultyLinks } from './FaultyLinks.tsx';
import { Islands, ReachChanges, Threads } from './Hanging.tsx';
import { Line } from './Line.tsx';
import { RulesWaiting, useRulesWaiting } from './RulesWaiting.tsx';

/** What wants attention: first what stands still or waits, then what gains most. */
export function TodayView() {
  const site = useSite();
  const query = useQuery({
    queryKey: ['site', site, 'today'],
    queryFn: () => answer(api.GET('/api/sites/{site}/today', { params: { path: { site } } })),
    refetchInterval: ({ state }) => (state.data?.is_sounding ? 1000 : false),
  });
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Looking what wants attention" />;
  }
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-4xl px-4 py-3">
        <div className="mb-3 flex">
          <ViewTabs />
        </div>
        <Lines site={site} today={query.data} />
      </div>
    </div>
  );
}

function Lines({ site, today }: { site: number; today: Schema['Today'] }) {
  const phase = useSiteStatus().data?.reading?.phase;
  const rulesWaiting = useRulesWaiting(site);
  const pages = (only: string) => `/${site}/pages?only=${only}`;
  const lines = [
    ...today.releases_interrupted.map((release) => <Interrupted key={release.release} site={site} release={release} />),
    today.changes_waiting > 0 && <Waiting key="tray" today={today} />,
    today.reading && <LastReading key="reading" site={site} reading={today.reading} />,
    today.lost.length > 0 && (
      <ReachChanges key="lost" site={site} rows={today.lost} total={today.lost_count} came={false} />
    ),
    today.better_entry && <StartAt key="entry" site={site} better={today.better_entry} />,
    today.unreachable.total > 0 && (
      <Pages
        key="unreachable"
        site={site}
        line={today.unreachable}
        title={`${count(today.unreachable.total, 'page')} out of reach`}
        why="No way of links leads there from the entry page. One link from a page within reach is enough."
        all={pages('unreachable')}
        act={{ to: `/${site}/reach`, name: 'Plan the rescue' }}
        isUrgent
      />
    ),
    today.islands.total > 0 && <Islands key="islands" site={site} islands={today.islands} />,
    today.openings.length > 0 && <BestOpenings key="openings" site={site} rows={today.openings} />,
    today.fresh_unlinked.total > 0 && (
      <Pages
        key="fresh"
        site={site}
        line={today.fresh_unlinked}
        title={`${count(today.fresh_unlinked.total, 'new page')} without links from any text`}
        why="They appeared since the reading before. Other pages may name them already."
        all={pages('fresh_unlinked')}
      />
    ),
    rulesWaiting > 0 && <RulesWaiting key="rules" site={site} waiting={rulesWaiting} />,
    today.broken.links + today.broken.fragments > 0 && <Broken key="broken" site={site} broken={today.broken} />,
    today.detours.links > 0 && (
      <Line
        key="detours"
        title={`${count(today.detours.links, 'link')} that take${today.detours.links === 1 ? 's' : ''} a detour`}
        why="They lead to an address that only sends readers on. Point them to where the page is now."
      >
        <FaultyLinks
          site={site}
          rows={today.detours.first}
          hasKeys={today.broken.links + today.broken.fragments === 0}
        />
      </Line>
    ),
    today.without_content_links.total > 0 && (
      <Pages
        key="content"
        site={site}
        line={today.without_content_links}
        title={`${count(today.without_content_links.total, 'page')} that only menus and lists lead to`}
        why="No text links there, so nobody is led there while reading."
        all={`/${site}/pages?bounds=words%3A1..%2Clinks_in%3A1..%2Ccontent_links_in%3A..0`}
      />
    ),
    today.came.length > 0 && <ReachChanges key="came" site={site} rows={today.came} total={today.came_count} came />,
    today.deep.total > 0 && (
      <Pages
        key="deep"
        site={site}
        line={today.deep}
        title={`${count(today.deep.total, 'page')} more than four clicks away`}
        why="Few readers go so far."
        all={`/${site}/pages?bounds=depth%3A5..`}
        act={{ to: `/${site}/reach`, name: 'Bring them nearer' }}
      />
    ),
    today.threads.total > 0 && <Threads key="threads" site={site} threads={today.threads} />,
    today.dead_ends.total > 0 && (
      <Pages
        key="dead"
        site={site}
        line={today.dead_ends}
        title={`${count(today.dead_ends.total, 'dead end')}`}
        why="Their text leads on to no other page."
        all={pages('dead_ends')}
      />
    ),
  ].filter(Boolean);
  if (today.pages === 0 && phase !== 'done' && phase !== 'failed') {
    return <Empty title="The site is being read.">What wants attention appears here page by page.</Empty>;
  }
  if (lines.length === 0) {
    return (
      <Empty title="All is well.">
        Every page is within reach, no link leads nowhere, and nothing waits.{' '}
        <Link className="link link-primary" to={`/${site}/pages`}>
          Look at the pages
        </Link>
      </Empty>
    );
  }
  return <ol className="flex flex-col gap-3">{lines}</ol>;
}

/** Hardly anything can be reached from where readers are said to start: they may start elsewhere. */
function StartAt({ site, better }: { site: number; better: Schema['BetterEntryRow'] }) {
  const refresh = useRefresh(site);
  const start = useMutation({
    mutationFn: () =>
      answer(api.POST('/api/sites/{site}/entries', { params: { path: { site } }, body: { page: better.page.number } })),
    onSuccess: () => say({ text: 'Readers start there too. Entry pages are set in Setup.' }),
    onSettled: refresh,
  });
  return (
    <Line
      isUrgent
      title="Readers start where hardly a page can be reached"
      why={`From the entry page ${better.now === 0 ? 'none' : number(better.now)} of ${count(better.of, 'page')} can be reached by links. From another one ${number(better.reaches)} can.`}
      action={
        <button type="button" className="link link-primary" disabled={start.isPending} onClick={() => start.mutate()}>
          Let readers start there
        </button>
      }
    >
      <p className="mt-1.5">
        <PageName site={site} page={better.page} /> <span className="text-secondary">{better.page.path}</span>
      </p>
    </Line>
  );
}

interface PagesProps {
  site: number;
  line: Schema['PageLine'];
  title: string;
  why: string;
  all: string;
  /** Where something can be done for all of them. */
  act?: { to: string; name: string };
  isUrgent?: boolean;
}

function Pages({ site, line, title, why, all, act, isUrgent = false }: PagesProps) {
  return (
    <Line
      title={title}
      why={why}
      isUrgent={isUrgent}
      action={
        <span className="flex gap-4">
          {act && (
            <Link className="link link-primary font-semibold" to={act.to}>
              {act.name}
            </Link>
          )}
          <Link className="link link-primary" to={all}>
            {line.total === 1 ? 'See it in Pages' : `See all ${number(line.total)}`}
          </Link>
        </span>
      }
    >
      <ul className="mt-1.5">
        {line.pages.map(({ page, words, links_in }) => (
          <li key={page.number} className="figures flex flex-wrap items-baseline gap-x-3 py-0.5">
            <PageName site={site} page={page} />
            <span className="text-secondary">{page.path}</span>
            <span className="ml-auto text-secondary">
              {count(words, 'word')} · {count(links_in, 'link in', 'links in')}
            </span>
          </li>
        ))}
      </ul>
    </Line>
  );
}

function Broken({ site, broken }: { site: number; broken: Schema['BrokenLines'] }) {
  const parts = [
    broken.links > 0 && count(broken.links, 'broken link'),
    broken.fragments > 0 && count(broken.fragments, 'link to a missing place', 'links to missing places'),
  ].filter(Boolean);
  return (
    <Line
      title={`${parts.join(' and ')}, to ${count(broken.addresses, 'address', 'addresses')}`}
      why="Readers who follow them get nothing, or land at the top of a page instead of where they were sent."
      action={
        <Link
          className="link link-primary"
          to={`/${site}/pages?only=broken&columns=title,address,links_out,broken,depth`}
        >
          {broken.pages === 1 ? 'See the page' : `See all ${number(broken.pages)} pages`}
        </Link>
      }
    >
      <FaultyLinks site={site} rows={broken.first} hasKeys />
    </Line>
  );
}

function Waiting({ today }: { today: Schema['Today'] }) {
  const way = useSiteStatus().data?.way;
  return (
    <Line
      title={`${count(today.changes_waiting, 'change')} in the tray`}
      why={
        today.warnings > 0
          ? `${count(today.warnings, 'of them has', 'of them have')} a warning.`
          : `They are decided and wait to be ${way === 'handed_over' ? 'handed over' : 'released'}.`
      }
      action={
        <button
          type="button"
          className="link link-primary"
          onClick={() => window.dispatchEvent(new Event('strelm:tray'))}
        >
          Open the tray
        </button>
      }
    />
  );
}

function Interrupted({ site, release }: { site: number; release: Schema['InterruptedRelease'] }) {
  return (
    <Line
      isUrgent
      title={`Release ${release.release} did not come to its end`}
      why={release.message}
      action={
        <Link className="link link-primary" to={`/${site}/history`}>
          Decide how it goes on
        </Link>
      }
    />
  );
}

function LastReading({ site, reading }: { site: number; reading: Schema['ReadingStatus'] }) {
  const refresh = useRefresh(site);
  const goOn = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/readings/go-on', { params: { path: { site } } })),
    onSettled: refresh,
  });
  const standsStill = reading.phase === 'stopped' || reading.phase === 'failed';
  const isAsking = reading.phase === 'asking';
  const found = [
    reading.fresh > 0 && `${number(reading.fresh)} new`,
    reading.changed > 0 && `${number(reading.changed)} changed`,
    reading.moved > 0 && `${number(reading.moved)} moved`,
    reading.vanished > 0 && `${number(reading.vanished)} vanished`,
  ].filter(Boolean);
  const title = titleOf(reading, found.join(', '));
  const unread =
    reading.unread > 0 &&
    `${count(reading.unread, 'address', 'addresses')} could not be read: what was known of ${reading.unread === 1 ? 'it' : 'them'} is kept.`;
  return (
    <Line
      title={title}
      why={
        [reading.message, unread].filter(Boolean).join(' ') ||
        `${count(reading.done, 'address', 'addresses')} looked at.`
      }
      isUrgent={reading.phase === 'failed' || isAsking}
      action={
        <span className="flex items-center gap-4">
          {isAsking && <LostPages site={site} reading={reading.reading} />}
          {standsStill && (
            <button type="button" className="link link-primary" onClick={() => goOn.mutate()}>
              Go on
            </button>
          )}
          <Link className="link link-primary" to={`/${site}/history?show=readings`}>
            {unread ? 'See which, and why' : 'See what it found'}
          </Link>
        </span>
      }
    />
  );
}

function titleOf(reading: Schema['ReadingStatus'], found: string): string {
  switch (reading.phase) {
    case 'stopped':
      return 'The reading was stopped';
    case 'failed':
      return 'The reading broke off';
    case 'asking':
      return 'Too many pages were not found';
    default:
      return found || reading.unread === 0
        ? `The latest reading found ${found || 'something to know'}`
        : 'The latest reading did not get everything';
  }
}
