import type { Schema } from '../../api/client.ts';
import { Menu, MenuLink } from '../../parts/Menu.tsx';
import { count } from '../../parts/words.ts';

const FORMATS = [
  { format: 'html', name: 'A page to read and print', opens: true },
  { format: 'xlsx', name: 'Excel workbook', opens: false },
  { format: 'csv', name: 'CSV table', opens: false },
  { format: 'jsonl', name: 'JSON Lines, for programs', opens: false },
];

/** What was handed over as a list, in the form that suits whoever works by it. */
export function Worklist({ site, release }: { site: number; release: number }) {
  return (
    <Menu name="Get the list" width="w-60">
      {FORMATS.map(({ format, name, opens }) => (
        <MenuLink
          key={format}
          href={`/api/sites/${site}/releases/${release}/worklist?format=${format}`}
          {...(opens ? { inNewTab: true } : { download: '' })}
        >
          {name}
        </MenuLink>
      ))}
    </Menu>
  );
}

const PHASES: Record<Schema['HandedPhase'], string> = {
  handed_over: 'handed over',
  there: 'there',
  other_words: 'there with other words',
  not_yet: 'not there yet',
  sentence_gone: 'the sentence is gone',
  in_tray: 'in the tray again',
  dropped: 'dropped',
};

/** What became of one link that was handed over. */
export function Handed({ phase }: { phase: Schema['HandedPhase'] }) {
  const isSeen = phase === 'there' || phase === 'other_words';
  const manner =
    phase === 'sentence_gone' ? 'text-accent font-semibold' : isSeen ? 'text-primary font-semibold' : 'text-secondary';
  return (
    <span className={`ml-2 whitespace-nowrap ${manner}`} data-testid="handed">
      {isSeen && <span aria-hidden="true">✓ </span>}
      {PHASES[phase]}
    </span>
  );
}

/** How much of a release was seen on the site. */
export function Seen({ release }: { release: Schema['ReleaseRow'] }) {
  const all = release.pages.flatMap((page) => page.links).flatMap((link) => link.handed ?? []);
  const seen = all.filter((phase) => phase === 'there' || phase === 'other_words').length;
  const gone = all.filter((phase) => phase === 'sentence_gone').length;
  if (!all.some((phase) => phase !== 'handed_over')) {
    return (
      <p className="border-b border-base-300/60 px-3 py-2 text-secondary">
        Put the links in by the list. The next reading of the site sees which of them stand there.
      </p>
    );
  }
  return (
    <p className="border-b border-base-300/60 px-3 py-2">
      {seen} of {count(all.length, 'link')} seen on the site
      {gone > 0 && `; of ${gone} the sentence is gone, so withdraw and look at the page anew`}.
    </p>
  );
}
