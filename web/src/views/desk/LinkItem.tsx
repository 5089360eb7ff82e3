import type { Schema } from '../../api/client.ts';
import { Depth } from '../../parts/Depth.tsx';
import { MendButtons, useMend } from '../../parts/Mend.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { count } from '../../parts/words.ts';
import type { Side } from './opening.ts';

const REGIONS: Record<string, string> = {
  menu: 'in a menu',
  breadcrumb: 'in the breadcrumb',
  contents: 'in a table of contents',
  header: 'in the header',
  footer: 'in the footer',
  aside: 'in an aside',
};

const CARRIERS: Record<Schema['Carrier'], string> = {
  words: '',
  picture: 'a picture',
  words_and_picture: 'words and a picture',
  part_of_picture: 'a part of a picture',
  button: 'a button',
  nothing: 'nothing that can be seen',
};

interface Props {
  site: number;
  link: Schema['LinkRow'];
  side: Side;
}

/** A link that exists. Boilerplate that is the same on many pages is one row, and so is a link that a page repeats. */
export function LinkItem({ site, link, side }: Props) {
  const { isMended } = useMend();
  const standing = link.standing;
  const facts = [
    standing ? CARRIERS[standing.carried_by] : REGIONS[link.region],
    standing?.aim,
    standing?.under.at(-1) && `under “${standing.under.at(-1)}”`,
    standing && `${link.times > 1 ? 'first ' : ''}${Math.round(standing.share_before * 100)} % down`,
    ...(standing?.says ?? []),
    link.times > 1 && `${link.times} times`,
    ...link.notes,
  ].filter(Boolean);
  return (
    <div className="border-l-4 border-base-300 py-0.5 pl-2">
      <span className="flex items-center gap-2">
        <span className="title-link min-w-0 flex-1 truncate">
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
      <span className="block truncate" title={link.anchor}>
        {link.anchor ? `“${link.anchor}”` : 'no anchor text'}
      </span>
      {facts.length > 0 && (
        <span className="block text-xs text-secondary" title={standing?.under.join(' › ')}>
          {facts.join(' · ')}
        </span>
      )}
      {link.fault && <span className="block font-semibold text-accent">{link.fault}</span>}
      {link.repair && !isMended(link.repair) && (
        <MendButtons repair={link.repair} of={`the link on “${link.anchor}”`} />
      )}
    </div>
  );
}
