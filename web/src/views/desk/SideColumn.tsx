import { memo, type ReactNode, useMemo } from 'react';
import type { Schema } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { Bridges } from './Bridges.tsx';
import { ColumnFilters, LeftOut } from './ColumnFilters.tsx';
import type { DeskState, Numbered } from './deskState.ts';
import type { Filter } from './filter.ts';
import { LinkList } from './LinkList.tsx';
import { type Acts, OpeningCard } from './OpeningCard.tsx';
import { keyOf, type Side } from './opening.ts';

interface Props {
  site: number;
  side: Side;
  desk: Schema['Desk'];
  /** Openings in this direction that pass the filters, with their numbers in the text. */
  openings: readonly Numbered[];
  /** How many there are without filters. */
  all: number;
  /** Whether none of these is likely to be kept. */
  isBare: boolean;
  /** Whether the keys act here. */
  isActive: boolean;
  /** Index of the chosen opening; -1 for none. */
  current: number;
  /** Key of the opening on which the mouse is. */
  pointed: string | undefined;
  acts: Acts;
  open: DeskState['open'];
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
  const { site, side, desk, openings, all, isActive, current, pointed, acts, open, bringBack, filter } = props;
  const isIn = side === 'in';
  const taken = isIn ? desk.taken_in : desk.taken_out;
  const rows = isIn ? desk.links_in : desk.links_out;
  const hasPictures = useMemo(() => desk.html.includes('data-picture='), [desk.html]);
  const { links, around } = useMemo(() => {
    const isAround = (link: Schema['LinkRow']) => !isIn && link.region !== 'content';
    return { links: rows.filter((link) => !isAround(link)), around: rows.filter(isAround) };
  }, [rows, isIn]);
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
      <div tabIndex={0} className="min-h-0 flex-1 lg:overflow-y-auto">
        <div className="px-3 pb-4">
          {props.children}
          {taken.length > 0 && <InTray site={site} taken={taken} />}
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
                isPointedAt={pointed === keyOf(opening)}
                acts={acts}
                under={open?.key === keyOf(opening) ? open.under : undefined}
              />
            ))}
            <LeftOut
              left={all - openings.length}
              all={all}
              likely={desk.likely}
              filter={filter}
              set={props.setFilter}
            />
          </Group>
          {!isIn && desk.page.editable && (
            <p className="pt-1 text-xs text-secondary">
              Select words in the text{hasPictures && ', or press a picture,'} to link them where you want.
            </p>
          )}
          {props.isBare && (isIn || desk.page.editable) && (
            <Bridges site={site} page={desk.page.number} inbound={isIn} />
          )}
          <Heading title={isIn ? 'Links in' : 'Links out'} n={timesOf(links)} />
          {links.length === 0 && (
            <p className="py-1 text-secondary">{isIn ? 'No page links here.' : 'No links in the text.'}</p>
          )}
          <LinkList site={site} links={links} side={side} />
          {around.length > 0 && (
            <details className="mt-3">
              <summary className="figures cursor-pointer text-xs leading-6 font-semibold tracking-wide text-secondary">
                Around the text, in menus and the like: {timesOf(around)}
              </summary>
              <div className="mt-1">
                <LinkList site={site} links={around} side={side} />
              </div>
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
      </div>
    </section>
  );
}

/** Links that are taken. */
const InTray = memo(function InTray({ site, taken }: { site: number; taken: Schema['TakenRow'][] }) {
  return (
    <Group title={taken.every((row) => row.handed_over) ? 'Handed over' : 'In the tray'} n={taken.length}>
      {taken.map((row) => (
        <li key={row.change} className="border-l-4 border-primary py-1 pl-2">
          {row.doing === 'unlink' ? (
            <span className="font-semibold">The link goes</span>
          ) : (
            <>
              {row.doing === 'retarget' && 'Now to '}
              {row.page ? (
                <PageName site={site} page={row.page} />
              ) : (
                <span className="font-semibold break-all">{row.href}</span>
              )}
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
  );
});

function timesOf(links: Schema['LinkRow'][]): number {
  return links.reduce((sum, link) => sum + link.times, 0);
}

function Group({ title, n, of = n, children }: { title: string; n: number; of?: number; children: ReactNode }) {
  return (
    <>
      <Heading title={title} n={n} of={of} />
      <ul className="flex flex-col gap-1.5">{children}</ul>
    </>
  );
}

function Heading({ title, n, of = n }: { title: string; n: number; of?: number }) {
  return (
    <h3 className="figures mt-3 mb-1 flex justify-between text-xs font-semibold tracking-wide text-secondary">
      {title}
      <span>{of === n ? n : `${n} of ${of}`}</span>
    </h3>
  );
}
