import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { Failed, Loading } from '../../parts/states.tsx';
import { count, KINDS } from '../../parts/words.ts';
import { FilterChip } from '../../table/Chips.tsx';
import { useSite } from '../../window/useSite.ts';
import { ViewTabs } from '../../window/ViewTabs.tsx';
import type { Depth } from './layout.ts';
import { PageFacts } from './PageFacts.tsx';
import { ReachTable } from './ReachTable.tsx';
import { ONLY, type Only, type ReachWish, useReachWish } from './reachWish.ts';
import { RescuePanel } from './rescue/RescuePanel.tsx';
import { useRescue } from './rescue/useRescue.ts';
import { SoundingsChart } from './SoundingsChart.tsx';
import { usePageReach, useReachChart } from './useReach.ts';

/** The chart of soundings, and beside it the facts of a page or the rescue planner. */
export function ReachView() {
  const site = useSite();
  const query = useReachChart(site);
  if (query.isError && !query.data) {
    return <Failed isView error={query.error} retry={() => void query.refetch()} />;
  }
  if (!query.data) {
    return <Loading what="Sounding the site" />;
  }
  return <Reach site={site} chart={query.data} />;
}

function Reach({ site, chart }: { site: number; chart: Schema['ReachChart'] }) {
  const [wish, setWish] = useReachWish();
  const rescue = useRescue(site, wish);
  const [at, setAt] = useState<number>();
  const pointed = usePageReach(site, useDeferredValue(at === undefined ? undefined : chart.numbers[at]));
  const chosen = usePageReach(site, wish.page ?? undefined);
  const places = useMemo(() => new Map(chart.numbers.map((page, place) => [page, place])), [chart.numbers]);
  const { depths, moved } = useMoves(chart, places, rescue.effect);
  const isFaded = useFilter(chart, wish);
  const choose = (place: number) => setWish({ page: chart.numbers[place] ?? null });
  const way = (at !== undefined ? pointed.data : wish.page !== null ? chosen.data : undefined)?.way ?? NO_WAY;
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 px-4 py-2">
        <ViewTabs />
        <Filters chart={chart} wish={wish} setWish={setWish} />
        <span className="ml-auto flex items-center gap-1">
          {!chart.is_settled && (
            <span className="mr-2 text-secondary" role="status">
              Equity is being worked out …
            </span>
          )}
          <FilterChip isOn={!wish.isTable} press={() => setWish({ isTable: false })}>
            Chart
          </FilterChip>
          <FilterChip isOn={wish.isTable} press={() => setWish({ isTable: true })}>
            Table
          </FilterChip>
        </span>
      </div>
      <div className="flex min-h-0 flex-1 flex-col overflow-y-auto border-t border-base-300 lg:flex-row lg:overflow-hidden">
        <section
          aria-label="Soundings"
          className="flex min-h-[26rem] min-w-0 shrink-0 flex-col lg:min-h-0 lg:flex-1 lg:shrink"
        >
          {wish.isTable ? (
            <ReachTable site={site} wish={wish} choose={(page) => setWish({ page })} />
          ) : (
            <SoundingsChart
              chart={chart}
              depths={depths}
              moved={moved}
              isFaded={isFaded}
              chosen={wish.page === null ? undefined : places.get(wish.page)}
              way={way}
              pointed={pointed.data}
              point={setAt}
              choose={choose}
              zoom={wish.zoom}
              setZoom={(zoom) => setWish({ zoom })}
            />
          )}
          {!wish.isTable && (
            <p className="figures flex flex-wrap gap-x-4 border-t border-base-300 px-3 py-1 text-xs text-secondary">
              <span>Each tick is a page, as wide as its link equity.</span>
              {moved.length > 0 && (
                <span>
                  <span className="mr-1 inline-block h-2.5 w-2 border-2 border-accent" aria-hidden="true" />
                  {count(moved.length, 'page stands', 'pages stand')} elsewhere than now, with the tray and the plan.
                </span>
              )}
            </p>
          )}
        </section>
        <aside
          aria-label="Facts and rescue"
          className="flex shrink-0 flex-col border-base-300 bg-base-100 max-lg:border-t lg:w-[27rem] lg:border-l"
        >
          {wish.page !== null && (
            <PageFacts
              site={site}
              query={chosen}
              close={() => setWish({ page: null })}
              rescue={(page, secondWay) => setWish({ pages: [page], page: null, secondWay })}
            />
          )}
          <div className={wish.page === null ? 'contents' : 'hidden'}>
            <RescuePanel site={site} wish={wish} setWish={setWish} rescue={rescue} />
          </div>
        </aside>
      </div>
    </div>
  );
}

const NO_WAY: Schema['PageRef'][] = [];

/** Where pages stand with the tray and the plan, and which of them these move. */
function useMoves(
  chart: Schema['ReachChart'],
  places: ReadonlyMap<number, number>,
  effect: Schema['RescueEffect'] | undefined,
) {
  return useMemo(() => {
    const depths: Depth[] = chart.depths.map((depth) => depth ?? null);
    effect?.numbers.forEach((page, at) => {
      const place = places.get(page);
      if (place !== undefined) {
        depths[place] = effect.depths[at] ?? null;
      }
    });
    const before = chart.depths_now.length > 0 ? chart.depths_now : chart.depths;
    const moved = depths.flatMap((depth, page) => {
      const from = before[page] ?? null;
      return from === depth ? [] : [{ page, from }];
    });
    return { depths, moved };
  }, [chart, places, effect]);
}

/** Whether the filter leaves a page out. */
function useFilter(chart: Schema['ReachChart'], wish: ReachWish): (page: number) => boolean {
  const { only, kind, category } = wish;
  const state = useMemo(() => (only ? new Set(chart[only]) : undefined), [chart, only]);
  return useCallback(
    (page: number) => {
      const isOfKind = !kind || chart.kinds[chart.kind[page] ?? -1] === kind;
      const isOfCategory = !category || chart.categories[chart.category[page] ?? -1] === category;
      return !isOfKind || !isOfCategory || (state !== undefined && !state.has(page));
    },
    [chart, kind, category, state],
  );
}

interface FilterProps {
  chart: Schema['ReachChart'];
  wish: ReachWish;
  setWish: (change: Partial<ReachWish>) => void;
}

function Filters({ chart, wish, setWish }: FilterProps) {
  const kinds = useMemo(() => chart.kinds.filter((_, at) => chart.kind.includes(at)), [chart]);
  return (
    <>
      {(Object.keys(ONLY) as Only[]).map((only) => (
        <FilterChip
          key={only}
          isOn={wish.only === only}
          press={() => setWish({ only: wish.only === only ? null : only })}
        >
          {ONLY[only]} <span className="figures font-normal">{chart[only].length}</span>
        </FilterChip>
      ))}
      {chart.categories.length > 0 && (
        <select
          className="select select-sm w-auto max-w-44"
          aria-label="Category"
          value={wish.category ?? ''}
          onChange={(event) => setWish({ category: event.target.value || null })}
        >
          <option value="">all categories</option>
          {chart.categories.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      )}
      {kinds.length > 1 && (
        <select
          className="select select-sm w-auto"
          aria-label="Kind"
          value={wish.kind ?? ''}
          onChange={(event) => setWish({ kind: (event.target.value || null) as Schema['Kind'] | null })}
        >
          <option value="">all kinds</option>
          {kinds.map((kind) => (
            <option key={kind} value={kind}>
              {KINDS[kind]}
            </option>
          ))}
        </select>
      )}
      <span className="sr-only">{count(chart.numbers.length, 'page')}</span>
    </>
  );
}
