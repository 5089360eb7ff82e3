import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { count, KINDS } from '../../parts/words.ts';

/** What the page is, and its figures. */
export function PageHead({ site, desk }: { site: number; desk: Schema['Desk'] }) {
  const page = desk.page;
  return (
    <header className="mb-4 border-b border-base-300 pb-3">
      <h1 className="line-clamp-3 font-serif text-2xl font-semibold leading-tight" title={page.title} dir="auto">
        {page.title}
      </h1>
      {desk.heading && (
        <p
          className="mt-0.5 line-clamp-2 font-serif text-lg leading-tight"
          dir="auto"
          title="The main heading on the page"
        >
          {desk.heading}
        </p>
      )}
      <p className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1 text-secondary">
        <a className="link-hover text-primary" href={page.address} target="_blank" rel="noopener noreferrer">
          {page.path} <span aria-hidden="true">↗</span>
          <span className="sr-only"> on the live site, in a new tab</span>
        </a>
        <span>{KINDS[page.kind]}</span>
        {page.category && <span>{page.category}</span>}
        {desk.published && <span>{desk.published}</span>}
        {desk.tags.length > 0 && <span>{desk.tags.join(', ')}</span>}
        {!page.editable && <span className="font-semibold">cannot be edited from here</span>}
        {desk.noindex && <span className="font-semibold">left out by search engines (noindex)</span>}
      </p>
      {desk.canonical && (
        <p className="mt-1">
          Names another page as its canonical: <PageName site={site} page={desk.canonical} />
        </p>
      )}
      {desk.versions.length > 0 && (
        <p className="mt-1 flex flex-wrap gap-x-3">
          <span className="text-secondary">In other languages:</span>
          {desk.versions.map((version) => (
            <span key={`${version.language} ${version.page.number}`}>
              {version.language} <PageName site={site} page={version.page} />
            </span>
          ))}
        </p>
      )}
      <p className="figures mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1" data-testid="page-figures">
        <Depth depth={page.depth} wordy />
        <span>
          {count(page.links_in, 'page links', 'pages link')} here
          <Planned n={page.planned_in} />
        </span>
        <span>
          {count(page.links_out, 'link out', 'links out')}
          <Planned n={page.planned_out} />
        </span>
        <span>{count(page.words, 'word')}</span>
        {page.broken > 0 && <span className="font-semibold text-accent">{count(page.broken, 'broken link')}</span>}
      </p>
      {desk.description && <p className="mt-1.5 text-secondary">{desk.description}</p>}
    </header>
  );
}

function Planned({ n }: { n: number }) {
  return n > 0 ? (
    <>
      {', '}
      <span className="text-primary underline decoration-double underline-offset-2">{n} planned</span>
    </>
  ) : null;
}
