import { useState } from 'react';
import { useParams } from 'react-router';
import { useKeys } from '../../parts/keys.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { useSite } from '../../window/useSite.ts';
import { PageHead } from './PageHead.tsx';
import { Reader } from './Reader.tsx';
import { SideColumn } from './SideColumn.tsx';
import { type Opening, useDesk, useDeskDecisions } from './useDesk.ts';

export type Side = 'in' | 'out';

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
  const [side, setSide] = useState<Side>();
  const [index, setIndex] = useState(0);
  // Numbers are those of the marks in the text, so they stay when an opening before them goes.
  const numbered = (rows: Opening[] = []) =>
    rows.map((opening, row) => ({ opening, number: row + 1 })).filter(({ opening }) => !decisions.isDecided(opening));
  const openings = { in: numbered(desk?.openings_in), out: numbered(desk?.openings_out) };
  const here: Side = side ?? (openings.in.length === 0 && openings.out.length > 0 ? 'out' : 'in');
  const rows = openings[here];
  const at = Math.min(index, Math.max(rows.length - 1, 0));
  const current = rows[at];

  const [reasons, setReasons] = useState<Opening>();
  const decide = (opening: Opening | undefined, how: 'take' | 'pass') => {
    if (opening) {
      decisions[how](opening);
    }
  };
  const toggleReasons = (opening: Opening | undefined) =>
    setReasons(opening && reasons && isSame(opening, reasons) ? undefined : opening);
  const choose = (chosen: Side, row: number) => {
    setSide(chosen);
    setIndex(row);
  };
  useKeys({
    j: () => choose(here, Math.min(at + 1, rows.length - 1)),
    k: () => choose(here, Math.max(at - 1, 0)),
    t: () => decide(current?.opening, 'take'),
    p: () => decide(current?.opening, 'pass'),
    r: () => toggleReasons(current?.opening),
    i: () => choose('in', 0),
    o: () => choose('out', 0),
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
      isActive={here === of}
      current={here === of ? at : -1}
      choose={(row) => choose(of, row)}
      decide={decide}
      bringBack={decisions.bringBack}
      reasons={reasons}
      toggleReasons={toggleReasons}
    />
  );
  return (
    // On a narrow window the page comes first, and what leads in and out below it.
    <div className="grid h-full overflow-y-auto lg:grid-cols-[minmax(16rem,21rem)_minmax(20rem,1fr)_minmax(16rem,21rem)] lg:overflow-hidden">
      {column('in')}
      <section
        aria-label="The page"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a text that scrolls must be reachable by keyboard
        tabIndex={0}
        className="order-first min-h-0 border-base-300 lg:order-none lg:overflow-y-auto lg:border-x"
      >
        <div className="mx-auto max-w-[40rem] px-6 py-4">
          <PageHead site={site} desk={desk} />
          <Reader
            site={site}
            desk={desk}
            current={here === 'out' && current ? current.number : 0}
            choose={(number) =>
              choose(
                'out',
                openings.out.findIndex((row) => row.number === number),
              )
            }
          />
        </div>
      </section>
      {column('out')}
    </div>
  );
}

function isSame(one: Opening, other: Opening): boolean {
  return one.source === other.source && one.target === other.target;
}
