import { type FormEvent, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { Check } from '../../parts/Check.tsx';
import { Field } from '../../parts/Field.tsx';
import { TargetField } from '../../parts/TargetField.tsx';
import { Copied } from './EdgeView.tsx';
import { isSame, moved } from './footer.ts';
import { type Edge, type Footer, useSetEdge, wishOf } from './useEdge.ts';

type FooterLink = Schema['FooterLinkWish'];

/** Links at the foot of every page. */
export function FooterForm({ site, edge }: { site: number; edge: Edge }) {
  const set = useSetEdge(site);
  const [footer, setFooter] = useState(edge.footer);
  const isChanged = !isSame(footer, edge.footer);
  const change = (part: Partial<Footer>) => setFooter({ ...footer, ...part });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const before = wishOf(edge);
    set.mutate({ wish: { ...before, footer }, before, done: 'The footer is saved.' });
  };
  return (
    <form onSubmit={submit} noValidate aria-labelledby="footer">
      <h2 id="footer" className="mb-1 text-base font-semibold text-primary">
        Footer links
      </h2>
      <p className="mb-3 text-secondary">A set of links at the foot of every page, in markup of your own.</p>
      <FooterLinks site={site} edge={edge} links={footer.links} set={(links) => change({ links })} />
      <div className="grid gap-x-4 sm:grid-cols-3">
        {PARTS.map(({ key, label }) => (
          <Field key={key} label={label}>
            {(props) => (
              <textarea
                {...props}
                rows={2}
                className="textarea w-full font-mono text-xs"
                spellCheck={false}
                value={footer[key]}
                onChange={(event) => change({ [key]: event.target.value })}
              />
            )}
          </Field>
        ))}
      </div>
      <div className="mb-3">
        <Check label="Edges put it on every page that passes" isOn={footer.is_on} set={(is_on) => change({ is_on })} />
      </div>
      {set.isError && (
        <p role="alert" className="mb-2 font-semibold text-accent">
          {set.error.message}
        </p>
      )}
      <div className="mb-4 flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={!isChanged || set.isPending}>
          Save the footer
        </button>
        {isChanged && (
          <button type="button" className="btn btn-ghost" onClick={() => setFooter(edge.footer)}>
            As it was saved
          </button>
        )}
      </div>
      {edge.snippet && !isChanged && (
        <>
          <p className="mb-1 text-secondary">Or put it into the site’s own template:</p>
          <Copied text={edge.snippet} what="the markup" />
        </>
      )}
    </form>
  );
}

const PARTS: { key: 'before' | 'between' | 'after'; label: string }[] = [
  { key: 'before', label: 'Markup before' },
  { key: 'between', label: 'Between two links' },
  { key: 'after', label: 'Markup after' },
];

interface LinksProps {
  site: number;
  edge: Edge;
  links: FooterLink[];
  set: (links: FooterLink[]) => void;
}

function FooterLinks({ site, edge, links, set }: LinksProps) {
  // Names of pages that were chosen here and are not saved yet.
  const [names, setNames] = useState<Record<string, string>>({});
  const nameOf = (link: FooterLink) =>
    link.page
      ? (names[link.page] ?? edge.footer_pages.find(({ number }) => number === link.page)?.title)
      : link.address;
  const put = (at: number, link: FooterLink) => set(links.map((known, index) => (index === at ? link : known)));
  return (
    <>
      {links.length > 0 && (
        <ul className="mb-2 rounded border border-base-300" aria-label="Links of the footer">
          {links.map((link, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: two links may be alike, and fields keep their place.
            <li key={at} className="flex items-center gap-2 border-b border-base-300 px-2 py-1 last:border-b-0">
              <input
                className="input input-sm w-44"
                aria-label={`Words of link ${at + 1}`}
                value={link.text}
                onChange={(event) => put(at, { ...link, text: event.target.value })}
              />
              <span className="min-w-0 flex-1 truncate text-secondary" title={nameOf(link) ?? undefined}>
                to {nameOf(link) ?? 'a page that is gone'}
              </span>
              <button
                type="button"
                className="btn btn-xs btn-ghost"
                aria-label={`Move “${link.text}” up`}
                disabled={at === 0}
                onClick={() => set(moved(links, at, at - 1))}
              >
                ↑
              </button>
              <button
                type="button"
                className="btn btn-xs btn-ghost"
                aria-label={`Move “${link.text}” down`}
                disabled={at === links.length - 1}
                onClick={() => set(moved(links, at, at + 1))}
              >
                ↓
              </button>
              <button
                type="button"
                className="btn btn-xs btn-ghost"
                aria-label={`Take “${link.text}” out`}
                onClick={() => set(links.filter((_, index) => index !== at))}
              >
                ✕
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="mb-4">
        <TargetField
          // Empty again after each.
          key={links.length}
          site={site}
          label="One more link"
          takes="pages and addresses"
          isInForm
          choose={(target, name) => {
            if (typeof target === 'number') {
              setNames({ ...names, [target]: name });
              set([...links, { text: name, page: target, address: null }]);
            } else if (target.kind === 'outside') {
              const text = name.replace(/^https?:\/\/(www\.)?/i, '').replace(/\/$/, '');
              set([...links, { text, page: null, address: target.address }]);
            }
          }}
        />
      </div>
    </>
  );
}
