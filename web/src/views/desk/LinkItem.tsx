import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { MendButtons, useMend } from '../../parts/Mend.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { count } from '../../parts/words.ts';
import type { Side } from './DeskView.tsx';

const REGIONS: Record<string, string> = {
  menu: 'in a menu',
  breadcrumb: 'in the breadcrumb',
  contents: 'in a table of contents',
  header: 'in the header',
  footer: 'in the footer',
  aside: 'in an aside',
};

/** A link that exists. Furniture that is the same on many pages is one row. */
export function LinkItem({ site, link, side }: { site: number; link: Schema['LinkRow']; side: Side }) {
  const { isMended } = useMend();
  const region = REGIONS[link.region];
  return (
    <li className="border-l-4 border-base-300 py-0.5 pl-2">
      <span className="flex items-center gap-2">
        <span className="min-w-0 flex-1 truncate">
          {link.repeated > 1 ? (
            <span className="font-semibold">{count(link.repeated, 'page')}</span>
          ) : link.page ? (
            <PageName site={site} page={link.page} />
          ) : (
            <span title={link.address} className="font-semibold">
              {link.address}
            </span>
          )}
        </span>
        {side === 'out' && link.page && <Depth depth={link.page.depth} />}
      </span>
      <span className="block truncate text-secondary" title={link.anchor}>
        “{link.anchor || 'a picture without words'}”{region ? ` ${region}` : ''}
      </span>
      {link.fault && <span className="block font-semibold text-accent">{link.fault}</span>}
      {link.repair && !isMended(link.repair) && (
        <MendButtons repair={link.repair} of={`the link on “${link.anchor}”`} />
      )}
    </li>
  );
}
