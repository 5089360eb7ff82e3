import { Link } from 'react-router';
import { copyText } from '../../parts/copyText.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { count } from '../../parts/words.ts';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import { FooterForm } from './FooterForm.tsx';
import { type Edge, useEdge, useSetEdge, wishOf } from './useEdge.ts';

/** What comes to pages as they pass through an edge, on their way from the site to its readers. */
export function EdgeView() {
  const site = useSite();
  const query = useEdge(site);
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Looking for edges" />;
  }
  return (
    <div className="flex h-full flex-col overflow-y-auto">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
      </div>
      <div className="grid w-full max-w-6xl grid-cols-1 gap-x-10 px-4 pb-8 lg:grid-cols-2">
        <div>
          <Running edge={query.data} />
          <WhatComes site={site} edge={query.data} />
          <ForBuilders site={site} />
        </div>
        <FooterForm key={site} site={site} edge={query.data} />
      </div>
    </div>
  );
}

function Running({ edge }: { edge: Edge }) {
  return (
    <section className="mb-6" aria-labelledby="edges">
      <h2 id="edges" className="mb-1 text-base font-semibold text-primary">
        Edges
      </h2>
      <p className="mb-2 text-secondary">
        An edge stands between the site and its readers and puts links into the pages that pass. The site itself stays
        as it is; without the edge, its pages are as before.
      </p>
      {edge.running.length > 0 ? (
        <ul className="rounded border border-base-300">
          {edge.running.map(({ address, upstream }) => (
            <li key={address} className="flex flex-wrap gap-x-2 border-b border-base-300 px-3 py-2 last:border-b-0">
              <a
                href={`http://${address}/`}
                target="_blank"
                rel="noreferrer"
                className="font-semibold text-primary underline"
              >
                {address}
              </a>
              <span className="text-secondary">passes on what {upstream.replace(/\/$/, '')} answers</span>
            </li>
          ))}
        </ul>
      ) : (
        <div className="rounded border border-base-300 px-3 py-2">
          <p className="mb-1 font-semibold">No edge of this site runs.</p>
          <p className="mb-1 text-secondary">Start one where the site is served:</p>
          <Copied text={edge.command} what="the command" />
        </div>
      )}
    </section>
  );
}

function WhatComes({ site, edge }: { site: number; edge: Edge }) {
  const set = useSetEdge(site);
  const before = wishOf(edge);
  return (
    <section className="mb-6" aria-labelledby="comes">
      <h2 id="comes" className="mb-1 text-base font-semibold text-primary">
        What comes to pages as they pass
      </h2>
      <ul className="rounded border border-base-300">
        <li className="border-b border-base-300 px-3 py-2">
          <p>
            <Link to={`/${site}/rules`} className="font-semibold text-primary underline">
              The links of all rules
            </Link>{' '}
            that are on
          </p>
          <p className="text-secondary">A rule that is changed holds within two seconds.</p>
        </li>
        <li className="px-3 py-2">
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="toggle toggle-sm"
              checked={edge.carries}
              disabled={set.isPending || !(edge.is_handed_over || edge.carries)}
              onChange={(event) => {
                const carries = event.target.checked;
                const done = carries ? 'What is handed over comes to pages as they pass.' : 'Edges leave it alone now.';
                set.mutate({ wish: { ...before, carries }, before, done });
              }}
            />
            <span className="font-semibold">What is handed over from the tray</span>
          </label>
          <p className="text-secondary">
            {edge.is_handed_over
              ? 'Each link stands on its words for as long as their sentence stays as it is. Withdrawing a list in History takes all of it back.'
              : 'Releases of this site are written to it, so nothing is handed over.'}
          </p>
          {edge.handed_over > 0 && (
            <p className="figures">
              <Link to={`/${site}/history`} className="inline-block py-0.5 leading-6 text-primary underline">
                {count(edge.handed_over, 'link')} handed over
              </Link>
              {edge.lost > 0 && (
                <span className="font-semibold text-accent">
                  {' '}
                  · {edge.lost} of them left alone: their sentence has changed
                </span>
              )}
            </p>
          )}
          {set.isError && (
            <p role="alert" className="font-semibold text-accent">
              {set.error.message}
            </p>
          )}
        </li>
      </ul>
    </section>
  );
}

function ForBuilders({ site }: { site: number }) {
  const address = `${window.location.origin}/api/sites/${site}/render?address=/guides/moon/`;
  return (
    <section aria-labelledby="builders">
      <h2 id="builders" className="mb-1 text-base font-semibold text-primary">
        For a site that is built
      </h2>
      <p className="mb-2 text-secondary">
        Whatever builds the pages can send each through Strelm instead: a page goes in, the page with its links comes
        out.
      </p>
      <Copied text={`curl --data-binary @moon.html -H 'Content-Type: text/html' '${address}'`} what="the example" />
    </section>
  );
}

/** A text to be used elsewhere. */
export function Copied({ text, what }: { text: string; what: string }) {
  return (
    <div className="flex items-start gap-2">
      <code className="min-w-0 flex-1 rounded bg-base-200 px-2 py-1 text-xs leading-5 wrap-anywhere whitespace-pre-wrap">
        {text}
      </code>
      <button type="button" className="btn btn-sm btn-ghost border-base-300" onClick={() => void copyText(text, what)}>
        Copy
        <span className="sr-only"> {what}</span>
      </button>
    </div>
  );
}
