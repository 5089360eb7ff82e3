import { Link, useParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { useDecisions } from '../../decisions/context.ts';
import { Depth } from '../../parts/Depth.tsx';
import { MendButtons, useMend } from '../../parts/Mend.tsx';
import { PageName } from '../../parts/PageName.tsx';
import { count } from '../../parts/words.ts';
import { useRuleActions } from '../rules/useRules.ts';
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
      {link.rule && <MadeByRule site={site} rule={link.rule} anchor={link.anchor} />}
      {link.fault && <span className="block font-semibold text-accent">{link.fault}</span>}
      {link.repair && !isMended(link.repair) && (
        <MendButtons repair={link.repair} of={`the link on “${link.anchor}”`} />
      )}
    </div>
  );
}

interface MadeProps {
  site: number;
  rule: Schema['LinkOfRule'];
  anchor: string;
}

/** The rule that made a link. To pass the link is an exception of the rule, and takes it off. */
function MadeByRule({ site, rule, anchor }: MadeProps) {
  const page = Number(useParams().page);
  const { decide } = useDecisions();
  const { pass } = useRuleActions(site);
  const { number, phrase, spot } = rule;
  return (
    <span className="flex items-center gap-2 text-xs">
      <span className="min-w-0 truncate">
        made by the rule for{' '}
        {phrase ? (
          <Link to={`/${site}/rules/${number}`} className="title-link">
            “{phrase}”
          </Link>
        ) : (
          'words that was removed'
        )}
      </span>
      <button
        type="button"
        className="btn btn-xs btn-ghost font-normal"
        aria-label={`Pass the rule’s link on “${anchor}”`}
        title="Takes the link off; the rule does not link here any more"
        onClick={() =>
          pass.mutate(
            { places: [{ rule: number, page, spot }], are_passed: true },
            { onSuccess: () => decide({ kind: 'follow_rules', rules: [number], page }, anchor) },
          )
        }
      >
        Pass
      </button>
    </span>
  );
}
