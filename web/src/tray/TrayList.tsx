import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { Schema } from '../api/client.ts';
import { useDecisions } from '../decisions/context.ts';
import { Depth } from '../parts/Depth.tsx';
import { Menu, MenuLink, MenuNote } from '../parts/Menu.tsx';
import { PageName } from '../parts/PageName.tsx';
import { SentenceText } from '../parts/SentenceText.tsx';
import { Failed, Loading } from '../parts/states.tsx';
import { count } from '../parts/words.ts';
import { useSiteStatus } from '../window/useSite.ts';
import { trayRows } from './useTray.ts';

const FORMATS = [
  { format: 'diff', file: 'changes.diff', name: 'Unified diff of all changes' },
  { format: 'zip', file: 'changed-pages.zip', name: 'ZIP of the changed pages' },
];

/** Everything in the tray by page: each sentence as it is, and as it will be. */
export function TrayList({ site }: { site: number }) {
  const rows = useQuery(trayRows(site));
  const status = useSiteStatus().data;
  const { decide } = useDecisions();
  if (rows.isError) {
    return <Failed error={rows.error} retry={() => void rows.refetch()} />;
  }
  if (!rows.data) {
    return <Loading what="Opening the tray" />;
  }
  const drop = (links: Schema['TrayLink'][]) => {
    const words = links.length === 1 ? (links[0]?.sentence.anchor ?? '') : count(links.length, 'link');
    decide({ kind: 'drop', changes: links.map((link) => link.change) }, words);
  };
  const all = rows.data.flatMap((page) => page.links).filter((link) => !link.releasing);
  const warned = all.filter((link) => link.warning);
  return (
    <div className="mx-auto max-w-5xl px-4 py-3">
      <header className="mb-3 flex flex-wrap items-end gap-x-4 gap-y-1">
        <div className="mr-auto">
          <h2 className="font-serif text-lg font-semibold">What will change on the site</h2>
          <p className="text-secondary">
            {all.some((link) => link.was)
              ? 'Links change, and where it says so the wording.'
              : 'Only links change, no word is touched.'}{' '}
            {status?.way === 'handed_over'
              ? 'What is handed over can be withdrawn.'
              : 'A release can be taken back whole.'}
          </p>
        </div>
        <Menu name="Save as a file" width="w-72">
          {FORMATS.map(({ format, file, name }) => (
            <MenuLink key={format} href={`/api/sites/${site}/tray/export?format=${format}`} download={file}>
              {name}
            </MenuLink>
          ))}
          <MenuNote>For whoever brings the changes to the site by hand.</MenuNote>
        </Menu>
        {warned.length > 0 && (
          <button type="button" className="btn btn-sm btn-ghost border-base-300" onClick={() => drop(warned)}>
            Drop {count(warned.length, 'link')} with a warning
          </button>
        )}
        {all.length > 1 && (
          <button type="button" className="btn btn-sm btn-ghost border-base-300" onClick={() => drop(all)}>
            Drop all
          </button>
        )}
      </header>
      {status?.way === 'handed_over' && (
        <p className="mb-3 rounded-box border border-base-300 bg-base-200 px-3 py-2">
          Strelm reads this site and does not write to it. Handing over makes a list to work by: each place, its
          sentence, and its HTML afterwards. The next reading sees what was put in.{' '}
          <Link className="link link-primary" to={`/${site}/setup`}>
            How to have it written directly
          </Link>
        </p>
      )}
      {rows.data.map((page) => (
        <article key={page.page.number} className="mb-4">
          <h3 className="figures mb-1 flex flex-wrap items-center gap-x-2">
            On <PageName site={site} page={page.page} /> <span className="text-secondary">{page.page.path}</span>
            <span className="ml-auto text-secondary">
              links in its text: {page.links_before} → <b className="text-base-content">{page.links_after}</b>
            </span>
          </h3>
          <ul>
            {page.links.map((link) => (
              <Change key={link.change} site={site} link={link} drop={() => drop([link])} />
            ))}
          </ul>
        </article>
      ))}
    </div>
  );
}

function Change({ site, link, drop }: { site: number; link: Schema['TrayLink']; drop: () => void }) {
  return (
    <li className="grid grid-cols-[4rem_1fr_auto] gap-x-3 gap-y-1 border-l-4 border-depth-2 py-1.5 pl-3">
      <span className="text-secondary">before</span>
      {link.was ? (
        <span className="font-serif text-[0.95rem] leading-snug">{link.was}</span>
      ) : (
        <SentenceText sentence={link.sentence} carries={link.old ? 'existing' : 'nothing'} />
      )}
      <span className="row-span-3 self-center">
        {link.releasing ? (
          <span className="text-secondary">on its way</span>
        ) : (
          <button
            type="button"
            className="btn btn-sm btn-ghost border-base-300"
            aria-label={`Drop the change on “${link.sentence.anchor}”${link.target ? `, to ${link.target.title}` : ''}`}
            onClick={drop}
          >
            Drop
          </button>
        )}
      </span>
      <span className="text-secondary">after</span>
      <SentenceText sentence={link.sentence} carries={link.doing === 'unlink' ? 'nothing' : 'link'} />
      <span className="text-secondary">leads to</span>
      <span className="flex flex-wrap items-center gap-2">
        {link.target ? (
          <>
            <PageName site={site} page={link.target} />
            <Depth depth={link.target.depth} />
          </>
        ) : link.doing === 'unlink' ? (
          'nothing any more'
        ) : (
          <span className="break-all">{link.href}</span>
        )}
        {link.old && <span className="text-secondary break-all">until now {link.old}</span>}
        {link.was && <span className="font-semibold text-accent">The wording changes too.</span>}
      </span>
      {link.warning && <p className="col-span-3 font-semibold text-accent">{link.warning}</p>}
    </li>
  );
}
