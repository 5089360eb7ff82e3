import type { UseQueryResult } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { Failed, Loading } from '../../parts/states.tsx';
import { count, KINDS, number } from '../../parts/words.ts';

interface Props {
  site: number;
  query: UseQueryResult<Schema['PageReach']>;
  close: () => void;
  /** Plans a way to the page, or a second one. */
  rescue: (page: number, secondWay: boolean) => void;
}

/** What is to be known of one page's reach. */
export function PageFacts({ site, query, close, rescue }: Props) {
  if (query.isError && !query.data) {
    return <Failed error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Looking at the page" />;
  }
  const { page, way, thread, hanging, island, equity, depth_now: before } = query.data;
  const isLost = page.depth === null || page.depth === undefined;
  return (
    <section aria-label="The page" className="flex min-h-0 flex-1 flex-col">
      <header className="border-b border-base-300 px-4 py-2.5">
        <div className="flex items-start gap-2">
          <h2 className="min-w-0 flex-1 font-serif text-lg font-semibold leading-snug" dir="auto">
            {page.title}
          </h2>
          <button type="button" className="btn btn-xs btn-ghost border-base-300" onClick={close}>
            Back to the rescue
          </button>
        </div>
        <p className="truncate text-secondary" title={page.address}>
          {page.path}
        </p>
        <p className="figures mt-1.5 flex flex-wrap items-center gap-x-3 gap-y-1">
          <Depth depth={page.depth} wordy />
          {before !== page.depth && <span className="text-secondary">now {before ?? 'out of reach'}</span>}
          <span className="text-secondary">
            {KINDS[page.kind]}
            {page.category && `, ${page.category}`}
          </span>
        </p>
        <p className="mt-2 flex gap-2">
          {(isLost || page.links_in < 2) && !page.is_entry && (
            <button type="button" className="btn btn-sm btn-primary" onClick={() => rescue(page.number, false)}>
              Rescue this page
            </button>
          )}
          <Link className="btn btn-sm btn-ghost border-base-300" to={`/${site}/pages/${page.number}`}>
            Open at the Desk
          </Link>
        </p>
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-2">
        <Fact title="The way there">
          {way.length === 0 ? (
            <p>
              No way of links leads there.{' '}
              {page.links_in === 0
                ? 'No page links to it: it is known from a sitemap, a list or its file alone.'
                : `${count(page.links_in, 'page links', 'pages link')} to it, and all are out of reach themselves.`}
            </p>
          ) : (
            <ol className="list-decimal pl-5 leading-6">
              {way.map((step) => (
                <li key={step.number}>
                  <PageName site={site} page={step} />
                </li>
              ))}
            </ol>
          )}
        </Fact>
        {thread && (
          <Fact title="A thread page">
            <p>
              All ways lead over {thread.by_link ? 'one link of ' : ''}
              <PageName site={site} page={thread.over} />. Without it, {count(thread.hanging, 'page is', 'pages are')}{' '}
              lost
              {thread.by_link ? ', this one included' : ''}.
            </p>
            <button type="button" className="link link-primary" onClick={() => rescue(page.number, true)}>
              Find a second way
            </button>
          </Fact>
        )}
        {hanging > 0 && (
          <Fact title="What hangs on it">
            <p>Without this page nobody gets to {count(hanging, 'other page')}.</p>
          </Fact>
        )}
        {island && (
          <Fact title="On an island">
            <p>
              It hangs together with {count(island.pages - 1, 'other page')} out of reach. A link to{' '}
              <PageName site={site} page={island.gate} /> would open{' '}
              {island.opened === island.pages
                ? `all ${number(island.pages)}`
                : `${number(island.opened)} of the ${number(island.pages)}`}
              .
            </p>
          </Fact>
        )}
        <Fact title="Links">
          <p className="figures">
            {count(page.links_in, 'page links', 'pages link')} here ({number(page.content_links_in)} from text); it
            links to {count(page.links_out, 'page')}. {count(page.openings_in, 'opening')} would lead here.
          </p>
        </Fact>
        {equity && <Equity site={site} equity={equity} />}
      </div>
    </section>
  );
}

function Fact({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mb-3">
      <h3 className="mb-0.5 text-xs font-semibold text-secondary">{title}</h3>
      {children}
    </section>
  );
}

const percent = (share: number) => `${(share * 100).toFixed(share < 0.0095 ? 2 : 1)} %`;

function Equity({ site, equity }: { site: number; equity: Schema['PageEquity'] }) {
  return (
    <Fact title="Link equity">
      <p className="figures">
        {percent(equity.share)} of the site’s, {equity.beside_average.toFixed(2)} times the average page.
      </p>
      <div className="mt-1 grid grid-cols-2 gap-3">
        <Parts site={site} title="From" parts={equity.got} nothing="From no page." />
        <Parts site={site} title="To" parts={equity.passed} nothing="To no page." />
      </div>
    </Fact>
  );
}

function Parts(props: { site: number; title: string; parts: Schema['EquityPart'][]; nothing: string }) {
  const { site, title, parts, nothing } = props;
  return (
    <div className="min-w-0">
      <h4 className="text-xs text-secondary">{title}</h4>
      {parts.length === 0 && <p>{nothing}</p>}
      <ul>
        {parts.map((part) => (
          <li key={part.page.number} className="figures flex items-baseline gap-1.5">
            <span className="title-link min-w-0 flex-1 truncate">
              <PageName site={site} page={part.page} />
            </span>
            <span className="text-secondary">{percent(part.share)}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
