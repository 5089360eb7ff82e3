import { useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { BestDialog } from '../../best/BestDialog.tsx';
import { useKeys } from '../../parts/keys.ts';
import { say } from '../../parts/notices.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { useSite } from '../../window/useSite.ts';
import { passes, useFilter } from './ColumnFilters.tsx';
import type { Acts, Under } from './OpeningCard.tsx';
import { PageHead } from './PageHead.tsx';
import { Reader } from './Reader.tsx';
import { SelectedWords } from './SelectedWords.tsx';
import { isSame, keyOf, SideColumn } from './SideColumn.tsx';
import { type Opening, type Scope, type Taking, useDesk, useDeskDecisions, type Words } from './useDesk.ts';
import { useQueue } from './useQueue.ts';

export type Side = 'in' | 'out';

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
  const [side, setSide] = useState<Side>();
  const [index, setIndex] = useState(0);
  const [held, setHeld] = useState<Opening>();
  const [shown, setShown] = useState({ filter: filterText, keys: new Set<string>() });
  const [open, setOpen] = useState<{ opening: Opening; under: Under }>();
  const [pointed, setPointed] = useState<Opening>();
  const [selected, setSelected] = useState<Words>();
  const [best, setBest] = useState<Side>();
  const text = useRef<HTMLElement>(null);
  // Numbers are those of the marks in the text, so they stay when an opening before them goes.
  const numbered = (rows: Opening[] = []) =>
    rows.map((opening, row) => ({ opening, number: row + 1 })).filter(({ opening }) => !decisions.isDecided(opening));
  const all = { in: numbered(desk?.openings_in), out: numbered(desk?.openings_out) };
  const wasShown = (opening: Opening) => shown.filter === filterText && shown.keys.has(keyOf(opening));
  const filtered = (rows: typeof all.in) =>
    rows.filter(({ opening }) => desk && passes(filter, desk, opening, wasShown(opening)));
  const openings = { in: filtered(all.in), out: filtered(all.out) };
  const fresh = [...openings.in, ...openings.out].filter(({ opening }) => !wasShown(opening));
  if (fresh.length > 0) {
    const before = shown.filter === filterText ? shown.keys : [];
    setShown({ filter: filterText, keys: new Set([...before, ...fresh.map(({ opening }) => keyOf(opening))]) });
  }
  const here: Side = side ?? (openings.in.length === 0 && openings.out.length > 0 ? 'out' : 'in');
  const rows = openings[here];
  // Openings change their order with each link that is taken: a key means the one that was there when it was looked at.
  const kept = rows.findIndex(({ opening }) => isSame(opening, held));
  const at = kept >= 0 ? kept : Math.min(index, Math.max(rows.length - 1, 0));
  const current = rows[at];
  if (current && (at !== index || !isSame(current.opening, held))) {
    setIndex(at);
    setHeld(current.opening);
  }

  const choose = (chosen: Side, row: number) => {
    setSide(chosen);
    setIndex(Math.max(0, row));
    setHeld(openings[chosen][Math.max(0, row)]?.opening);
    setOpen(undefined);
  };
  const acts: Acts = {
    take: (opening) => {
      decisions.take(opening);
      setOpen(undefined);
    },
    takeByHand: (taking: Taking) => {
      decisions.takeByHand(taking);
      setOpen(undefined);
      setSelected(undefined);
    },
    pass: (opening: Opening, scope: Scope) => {
      decisions.pass(opening, scope);
      setOpen(undefined);
    },
    toggle: (opening, under) => {
      for (const of of ['in', 'out'] as const) {
        const row = openings[of].findIndex((other) => isSame(other.opening, opening));
        if (row >= 0) {
          setSide(of);
          setIndex(row);
          setHeld(opening);
        }
      }
      setOpen((before) =>
        isSame(before?.opening, opening) && before?.under === under ? undefined : { opening, under },
      );
    },
    close: () => setOpen(undefined),
    point: setPointed,
  };
  const toggle = (under: Under) => current && acts.toggle(current.opening, under);
  const next = () => {
    if (queue.next) {
      void navigate(`/${site}/pages/${queue.next.number}${filterText}`);
    } else {
      say({ text: 'No other page has openings that lead there.', link: { to: `/${site}/pages`, text: 'See Pages' } });
    }
  };
  useKeys({
    j: () => choose(here, Math.min(at + 1, rows.length - 1)),
    k: () => choose(here, Math.max(at - 1, 0)),
    t: () => current && acts.take(current.opening),
    p: () => current && acts.pass(current.opening, 'pair'),
    'shift+p': () => toggle('pass'),
    r: () => toggle('reasons'),
    w: () => toggle('words'),
    g: () => toggle('target'),
    e: () => toggle('wording'),
    b: () => all[here].length > 0 && setBest(here),
    i: () => choose('in', 0),
    o: () => choose('out', 0),
    n: next,
    escape: () => {
      setOpen(undefined);
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
      openings={openings[of]}
      all={all[of].length}
      isBare={all[of].every(({ opening }) => opening.fit < desk.likely)}
      isActive={here === of}
      current={here === of ? at : -1}
      pointed={pointed}
      choose={(row) => choose(of, row)}
      acts={acts}
      open={open}
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
  const marked = (opening: Opening | undefined) =>
    all.out.find((row) => opening && isSame(row.opening, opening))?.number ?? 0;
  return (
    // On a narrow window the page comes first, and what leads in and out below it.
    <div className="grid h-full overflow-y-auto lg:grid-cols-[minmax(17rem,21.5rem)_minmax(20rem,1fr)_minmax(17rem,21.5rem)] lg:overflow-hidden">
      {column('in')}
      <section
        ref={text}
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
            shown={openings.out.map(({ number }) => number)}
            current={here === 'out' && current ? current.number : 0}
            pointed={marked(pointed)}
            choose={(number) =>
              choose(
                'out',
                openings.out.findIndex((row) => row.number === number),
              )
            }
            point={(number) => setPointed(openings.out.find((row) => row.number === number)?.opening)}
            select={desk.page.editable ? setSelected : undefined}
          />
        </div>
      </section>
      {column('out')}
      {best && <BestDialog site={site} pages={[page]} direction={best} close={() => setBest(undefined)} />}
    </div>
  );
}
