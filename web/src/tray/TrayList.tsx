import { useQuery } from '@tanstack/react-query';
import type { Schema } from '../api/client.ts';
import { Depth } from '../parts/Depth.tsx';
import { PageName } from '../parts/PageName.tsx';
import { SentenceText } from '../parts/SentenceText.tsx';
import { Failed, Loading } from '../parts/states.tsx';
import { trayRows, useDrop } from './useTray.ts';

/** Everything in the tray by page: each sentence as it is, and as it will be. */
export function TrayList({ site }: { site: number }) {
  const rows = useQuery(trayRows(site));
  const drop = useDrop(site);
  if (rows.isError) {
    return <Failed error={rows.error} retry={() => void rows.refetch()} />;
  }
  if (!rows.data) {
    return <Loading what="Opening the tray" />;
  }
  return (
    <div className="mx-auto max-w-5xl px-4 py-3">
      <h2 className="mb-1 font-serif text-lg font-semibold">What will change on the site</h2>
      <p className="mb-3 text-secondary">Links are added, no word is touched. A release can be taken back whole.</p>
      {rows.data.map((page) => (
        <article key={page.page.number} className="mb-4">
          <h3 className="mb-1 flex items-center gap-2">
            On <PageName site={site} page={page.page} /> <span className="text-secondary">{page.page.path}</span>
          </h3>
          <ul>
            {page.links.map((link) => (
              <Change key={link.change} site={site} link={link} drop={() => drop.mutate(link)} />
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
      <SentenceText sentence={link.sentence} carries="nothing" />
      <span className="row-span-3 self-center">
        {link.releasing ? (
          <span className="text-secondary">on its way</span>
        ) : (
          <button
            type="button"
            className="btn btn-sm btn-ghost border-base-300"
            aria-label={`Drop the link on “${link.sentence.anchor}” to ${link.target.title}`}
            onClick={drop}
          >
            Drop
          </button>
        )}
      </span>
      <span className="text-secondary">after</span>
      <SentenceText sentence={link.sentence} carries="link" />
      <span className="text-secondary">leads to</span>
      <span className="flex items-center gap-2">
        <PageName site={site} page={link.target} />
        <Depth depth={link.target.depth} />
      </span>
      {link.warning && <p className="col-span-3 font-semibold text-accent">{link.warning}</p>}
    </li>
  );
}
