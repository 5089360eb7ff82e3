import type { ReactNode } from 'react';
import type { Schema } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import type { Side } from './DeskView.tsx';
import { LinkItem } from './LinkItem.tsx';
import { OpeningCard } from './OpeningCard.tsx';
import type { Opening } from './useDesk.ts';

interface Props {
  site: number;
  side: Side;
  desk: Schema['Desk'];
  /** Openings in this direction, with their numbers in the text. */
  openings: { opening: Opening; number: number }[];
  /** Whether the keys act here. */
  isActive: boolean;
  /** Index of the chosen opening; -1 for none. */
  current: number;
  choose: (row: number) => void;
  decide: (opening: Opening, how: 'take' | 'pass') => void;
  bringBack: (passed: Schema['PassedRow']) => void;
  /** The opening whose reasons are shown. */
  reasons: Opening | undefined;
  toggleReasons: (opening: Opening) => void;
}

const WORDS = {
  in: { title: 'Leads in', key: 'I', none: 'No other page names this one in words that could carry a link.' },
  out: { title: 'Leads out', key: 'O', none: 'This page names no other page in words that could carry a link.' },
};

/** Openings, links and decisions in one direction. */
export function SideColumn(props: Props) {
  const { site, side, desk, openings, isActive, current, choose, decide, bringBack } = props;
  const isIn = side === 'in';
  const taken = isIn ? desk.taken_in : desk.taken_out;
  const isAround = (link: Schema['LinkRow']) => !isIn && link.region !== 'content';
  const all = isIn ? desk.links_in : desk.links_out;
  const links = all.filter((link) => !isAround(link));
  const around = all.filter(isAround);
  const passed = desk.passed.filter((row) => (isIn ? row.target : row.source) === desk.page.number);
  const none =
    !isIn && !desk.page.editable ? 'This page cannot be edited from here, so it takes no links.' : WORDS[side].none;
  return (
    <section
      aria-label={WORDS[side].title}
      className="flex min-h-0 flex-col bg-base-200/60 max-lg:border-t max-lg:border-base-300"
    >
      <header className={`border-b-2 px-3 py-2 ${isActive ? 'border-primary' : 'border-base-300'}`}>
        <h2 className="flex items-center font-serif text-lg font-semibold">
          {WORDS[side].title}
          <kbd
            className="kbd kbd-sm ml-2 self-center font-sans"
            title={`Press ${WORDS[side].key} to work on this side`}
          >
            {WORDS[side].key}
          </kbd>
        </h2>
        {isActive && openings.length > 0 && (
          <p className="text-xs text-secondary">
            <b>J</b> <b>K</b> next, previous · <b>T</b> take · <b>P</b> pass · <b>R</b> reasons · <b>?</b> all keys
          </p>
        )}
      </header>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard */}
      <div tabIndex={0} className="min-h-0 flex-1 px-3 pb-4 lg:overflow-y-auto">
        {taken.length > 0 && (
          <Group title="In the tray" n={taken.length}>
            {taken.map((row) => (
              <li key={row.change} className="border-l-4 border-primary py-1 pl-2">
                {row.doing === 'unlink' ? (
                  <span className="font-semibold">The link goes</span>
                ) : (
                  <>
                    {row.doing === 'retarget' && 'Now to '}
                    <PageName site={site} page={row.page} />
                  </>
                )}
                <p>
                  <SentenceText sentence={row.sentence} carries={row.doing === 'unlink' ? 'nothing' : 'link'} />
                </p>
              </li>
            ))}
          </Group>
        )}
        <Group title="Openings" n={openings.length}>
          {openings.length === 0 && <li className="py-1 text-secondary">{none}</li>}
          {openings.map(({ opening, number }, row) => (
            <OpeningCard
              key={`${opening.source}-${opening.target}`}
              site={site}
              opening={opening}
              number={isIn ? null : number}
              isCurrent={row === current}
              choose={() => choose(row)}
              decide={(how) => decide(opening, how)}
              showsReasons={props.reasons?.source === opening.source && props.reasons.target === opening.target}
              toggleReasons={() => props.toggleReasons(opening)}
            />
          ))}
        </Group>
        <Group title={isIn ? 'Links in' : 'Links out'} n={links.length}>
          {links.length === 0 && (
            <li className="py-1 text-secondary">{isIn ? 'No page links here.' : 'No links in the text.'}</li>
          )}
          {links.map((link, row) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the order of the page is the only identity
            <LinkItem key={row} site={site} link={link} side={side} />
          ))}
        </Group>
        {around.length > 0 && (
          <details className="mt-3">
            <summary className="figures cursor-pointer text-xs font-semibold tracking-wide text-secondary">
              Around the text, in menus and the like: {around.length}
            </summary>
            <ul className="mt-1 flex flex-col gap-1.5">
              {around.map((link, row) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the order of the page is the only identity
                <LinkItem key={row} site={site} link={link} side={side} />
              ))}
            </ul>
          </details>
        )}
        {passed.length > 0 && (
          <Group title="Passed" n={passed.length}>
            {passed.map((row) => (
              <li key={`${row.source}-${row.target}`} className="flex items-center gap-2 py-1">
                <span className="min-w-0 flex-1 truncate">
                  “{row.anchor}” · {row.page.title}
                </span>
                <button type="button" className="btn btn-xs btn-ghost border-base-300" onClick={() => bringBack(row)}>
                  Bring back
                </button>
              </li>
            ))}
          </Group>
        )}
      </div>
    </section>
  );
}

function Group({ title, n, children }: { title: string; n: number; children: ReactNode }) {
  return (
    <>
      <h3 className="figures mt-3 mb-1 flex justify-between text-xs font-semibold tracking-wide text-secondary">
        {title}
        <span>{n}</span>
      </h3>
      <ul className="flex flex-col gap-1.5">{children}</ul>
    </>
  );
}
