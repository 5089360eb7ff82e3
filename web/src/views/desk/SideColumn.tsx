import type { ReactNode } from 'react';
import type { Schema } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { Bridges } from './Bridges.tsx';
import { ColumnFilters, type Filter, LeftOut } from './ColumnFilters.tsx';
import type { Side } from './DeskView.tsx';
import { LinkItem } from './LinkItem.tsx';
import { type Acts, OpeningCard, type Under } from './OpeningCard.tsx';
import type { Opening } from './useDesk.ts';

interface Props {
  site: number;
  side: Side;
  desk: Schema['Desk'];
  /** Openings in this direction that pass the filters, with their numbers in the text. */
  openings: { opening: Opening; number: number }[];
  /** How many there are without filters. */
  all: number;
  /** Whether none of these is likely to be kept. */
  isBare: boolean;
  /** Whether the keys act here. */
  isActive: boolean;
  /** Index of the chosen opening; -1 for none. */
  current: number;
  /** The opening on which the mouse is. */
  pointed: Opening | undefined;
  choose: (row: number) => void;
  acts: Acts;
  /** What is open under which opening. */
  open: { opening: Opening; under: Under } | undefined;
  bringBack: (passed: Schema['PassedRow']) => void;
  takeBest: () => void;
  filter: Filter;
  setFilter: (change: Partial<Filter>) => void;
  /** What stands above the openings. */
  children?: ReactNode;
}

const WORDS = { in: { title: 'Leads in', key: 'I' }, out: { title: 'Leads out', key: 'O' } };

/** Openings, links and decisions in one direction. */
export function SideColumn(props: Props) {
  const { site, side, desk, openings, all, isActive, current, pointed, choose, acts, open, bringBack, filter } = props;
  const isIn = side === 'in';
  const taken = isIn ? desk.taken_in : desk.taken_out;
  const isAround = (link: Schema['LinkRow']) => !isIn && link.region !== 'content';
  const rows = isIn ? desk.links_in : desk.links_out;
  const hasPictures = desk.html.includes('data-picture=');
  const links = rows.filter((link) => !isAround(link));
  const around = rows.filter(isAround);
  const passed = desk.passed.filter((row) => (isIn ? row.target : row.source) === desk.page.number);
  const nothing = isIn ? desk.nothing_in : desk.nothing_out;
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
          {all > 1 && (
            <button
              type="button"
              className="btn btn-xs btn-ghost ml-auto border-base-300 font-sans"
              title="Take several at once, after a look at them (B)"
              onClick={props.takeBest}
            >
              Take the best …
            </button>
          )}
        </h2>
        {isActive && openings.length > 0 && (
          <p className="text-xs text-secondary">
            <b>J</b> <b>K</b> next, previous · <b>T</b> take · <b>P</b> pass · <b>W</b> words · <b>?</b> all keys
          </p>
        )}
        {all > 1 && (
          <ColumnFilters
            filter={filter}
            likely={desk.likely}
            set={props.setFilter}
            hasCategory={Boolean(desk.page.category)}
          />
        )}
      </header>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard */}
      <div tabIndex={0} className="min-h-0 flex-1 px-3 pb-4 lg:overflow-y-auto">
        {props.children}
        {taken.length > 0 && (
          <Group title={taken.every((row) => row.handed_over) ? 'Handed over' : 'In the tray'} n={taken.length}>
            {taken.map((row) => (
              <li key={row.change} className="border-l-4 border-primary py-1 pl-2">
                {row.doing === 'unlink' ? (
                  <span className="font-semibold">The link goes</span>
                ) : (
                  <>
                    {row.doing === 'retarget' && 'Now to '}
                    <PageName site={site} page={row.page} />
                    {row.doing === 'reword' && <span className="text-secondary"> · reworded</span>}
                    {row.handed_over && taken.some((other) => !other.handed_over) && (
                      <span className="text-secondary"> · handed over</span>
                    )}
                  </>
                )}
                <p>
                  <SentenceText sentence={row.sentence} carries={row.doing === 'unlink' ? 'nothing' : 'link'} />
                </p>
              </li>
            ))}
          </Group>
        )}
        <Group title="Openings" n={openings.length} of={all}>
          {all === 0 && <li className="py-1 text-secondary">{nothing ?? 'None is left.'}</li>}
          {openings.map(({ opening, number }, row) => (
            <OpeningCard
              key={keyOf(opening)}
              site={site}
              opening={opening}
              number={isIn ? null : number}
              target={isIn ? desk.page.title : opening.page.title}
              isCurrent={row === current}
              isPointedAt={isSame(pointed, opening)}
              choose={() => choose(row)}
              acts={acts}
              under={isSame(open?.opening, opening) ? open?.under : undefined}
            />
          ))}
          <LeftOut left={all - openings.length} all={all} likely={desk.likely} filter={filter} set={props.setFilter} />
        </Group>
        {!isIn && desk.page.editable && (
          <p className="pt-1 text-xs text-secondary">
            Select words in the text{hasPictures && ', or press a picture,'} to link them where you want.
          </p>
        )}
        {props.isBare && (isIn || desk.page.editable) && <Bridges site={site} page={desk.page.number} inbound={isIn} />}
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
            <summary className="figures cursor-pointer text-xs leading-6 font-semibold tracking-wide text-secondary">
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
              <li key={row.passed} className="flex items-center gap-2 py-1">
                <span className="title-link min-w-0 flex-1 truncate">
                  “{row.anchor}” · {row.page ? row.page.title : 'all pages'}
                  {row.one_place && <span className="text-secondary"> · one place</span>}
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

/** What an opening is known by, whatever its words and its fit become. */
export function keyOf(opening: Opening): string {
  return `${opening.source}-${opening.target}`;
}

export function isSame(one: Opening | undefined, other: Opening | undefined): boolean {
  return one !== undefined && other !== undefined && keyOf(one) === keyOf(other);
}

function Group({ title, n, of = n, children }: { title: string; n: number; of?: number; children: ReactNode }) {
  return (
    <>
      <h3 className="figures mt-3 mb-1 flex justify-between text-xs font-semibold tracking-wide text-secondary">
        {title}
        <span>{of === n ? n : `${n} of ${of}`}</span>
      </h3>
      <ul className="flex flex-col gap-1.5">{children}</ul>
    </>
  );
}
