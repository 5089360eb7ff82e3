import { useMemo, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { BestDialog } from '../../best/BestDialog.tsx';
import { useKeys } from '../../parts/keys.ts';
import { say } from '../../parts/notices.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { useSteady } from '../../parts/useSteady.ts';
import { useSite } from '../../window/useSite.ts';
import { useFilter } from './ColumnFilters.tsx';
import { BEGINNING, type Step, settled, step, type Under, whereIs } from './deskState.ts';
import type { Acts } from './OpeningCard.tsx';
import { keyOf, type Side } from './opening.ts';
import { PageHead } from './PageHead.tsx';
import { Reader } from './Reader.tsx';
import { SelectedWords } from './SelectedWords.tsx';
import { SideColumn } from './SideColumn.tsx';
import { useDesk, useDeskDecisions, type Words } from './useDesk.ts';
import { useDeskRows } from './useDeskRows.ts';
import { useQueue } from './useQueue.ts';

const MANNERS: Record<Exclude<Schema['ShownManner'], 'page'>, string> = {
  text: 'The markup of this page is too large or too tangled to be shown. Here is its text; links are laid as ever.',
  beginning_of_text:
    'The markup of this page is too large or too tangled to be shown. Here is the beginning of its text; links are laid as ever.',
};

/** A page with what leads in on its left and where it leads out on its right. */
export function DeskView() {
  const site = useSite();
  const page = Number(useParams().page);
  // Another page begins with its own choice.
  return <DeskOf key={page} site={site} page={page} />;
}

function DeskOf({ site, page }: { site: number; page: number }) {
  const query = useDesk(site, page);
  const desk = query.data;
  const decisions = useDeskDecisions();
  const navigate = useNavigate();
  const queue = useQueue(site, page);
  const [filter, setFilter, filterText] = useFilter();
  const { shown, all } = useDeskRows(desk, filter, decisions.isDecided);
  const [state, setState] = useState(BEGINNING);
  const [pointed, setPointed] = useState<string>();
  const [selected, setSelected] = useState<Words>();
  const [best, setBest] = useState<Side>();
  const here = whereIs(state, shown);
  const { current } = here;
  const held = settled(state, here);
  if (held !== state) {
    setState(held);
  }

  const go = (taken: Step) => setState((before) => step(before, shown, taken));
  const acts = useSteady<Acts>({
    choose: (opening) =>
      go({ do: 'choose', side: 'out', at: shown.out.findIndex((row) => keyOf(row.opening) === keyOf(opening)) }),
    take: (opening) => {
      decisions.take(opening);
      go({ do: 'close' });
    },
    takeByHand: (taking) => {
      decisions.takeByHand(taking);
      go({ do: 'close' });
      setSelected(undefined);
    },
    pass: (opening, scope) => {
      decisions.pass(opening, scope);
      go({ do: 'close' });
    },
    toggle: (opening, under) => go({ do: 'toggle', opening, under }),
    close: () => go({ do: 'close' }),
    point: (opening) => setPointed(opening && keyOf(opening)),
  });
  const inText = useSteady({
    choose: (number: number) =>
      go({ do: 'choose', side: 'out', at: shown.out.findIndex((row) => row.number === number) }),
    point: (number: number) => acts.point(shown.out.find((row) => row.number === number)?.opening),
  });
  const numbers = useMemo(() => new Set(shown.out.map(({ number }) => number)), [shown.out]);
  const toggle = (under: Under) => current && acts.toggle(current.opening, under);
  const next = () => {
    if (queue.next) {
      void navigate(`/${site}/pages/${queue.next.number}${filterText}`);
    } else {
      say({ text: 'No other page has openings that lead there.', link: { to: `/${site}/pages`, text: 'See Pages' } });
    }
  };
  useKeys({
    j: () => go({ do: 'move', by: 1 }),
    k: () => go({ do: 'move', by: -1 }),
    t: () => current && acts.take(current.opening),
    p: () => current && acts.pass(current.opening, 'pair'),
    'shift+p': () => toggle('pass'),
    r: () => toggle('reasons'),
    w: () => toggle('words'),
    g: () => toggle('target'),
    e: () => toggle('wording'),
    b: () => all[here.side].length > 0 && setBest(here.side),
    i: () => go({ do: 'choose', side: 'in', at: 0 }),
    o: () => go({ do: 'choose', side: 'out', at: 0 }),
    n: next,
    escape: () => {
      go({ do: 'close' });
      setSelected(undefined);
    },
  });

  if (query.isError && !desk) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!desk || desk.page.number !== page) {
    return <Loading what="Laying out the page" />;
  }
  const column = (of: Side) => (
    <SideColumn
      site={site}
      side={of}
      desk={desk}
      openings={shown[of]}
      all={all[of].length}
      isBare={all[of].every(({ opening }) => opening.fit < desk.likely)}
      isActive={here.side === of}
      current={here.side === of ? here.at : -1}
      pointed={pointed}
      acts={acts}
      open={state.open}
      bringBack={decisions.bringBack}
      takeBest={() => setBest(of)}
      filter={filter}
      setFilter={setFilter}
    >
      {of === 'out' && selected && (
        <SelectedWords
          key={JSON.stringify(selected)}
          site={site}
          page={page}
          selected={selected}
          take={acts.takeByHand}
          close={() => setSelected(undefined)}
        />
      )}
    </SideColumn>
  );
  const pointedMark = all.out.find(({ opening }) => keyOf(opening) === pointed)?.number ?? 0;
  return (
    // On a narrow window the page comes first, and what leads in and out below it.
    <div className="grid h-full overflow-y-auto lg:grid-cols-[minmax(17rem,21.5rem)_minmax(20rem,1fr)_minmax(17rem,21.5rem)] lg:overflow-hidden">
      {column('in')}
      <section
        aria-label="The page"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a text that scrolls must be reachable by keyboard
        tabIndex={0}
        className="order-first min-h-0 border-base-300 lg:order-none lg:overflow-y-auto lg:border-x"
      >
        <div className="mx-auto max-w-[40rem] px-6 py-4">
          {queue.next && (
            <p className="mb-2 flex items-baseline gap-2 text-xs text-secondary">
              <span className="min-w-0 flex-1 truncate text-right">
                {queue.left} to go; next:{' '}
                <Link className="text-primary underline" to={`/${site}/pages/${queue.next.number}${filterText}`}>
                  {queue.next.title}
                </Link>
              </span>
              <kbd className="kbd kbd-xs">N</kbd>
            </p>
          )}
          <PageHead site={site} desk={desk} />
          {desk.shown_manner !== 'page' && (
            <p role="note" className="mb-3 rounded-box border border-base-300 bg-base-200 px-3 py-2 text-secondary">
              {MANNERS[desk.shown_manner]}
            </p>
          )}
          <Reader
            site={site}
            desk={desk}
            shown={numbers}
            current={here.side === 'out' && current ? current.number : 0}
            pointed={pointedMark}
            choose={inText.choose}
            point={inText.point}
            select={desk.page.editable ? setSelected : undefined}
          />
        </div>
      </section>
      {column('out')}
      {best && <BestDialog site={site} pages={[page]} direction={best} close={() => setBest(undefined)} />}
    </div>
  );
}
