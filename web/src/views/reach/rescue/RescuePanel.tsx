import { type ReactNode, useMemo } from 'react';
import { PageName } from '../../../parts/PageName.tsx';
import { count, number } from '../../../parts/words.ts';
import { RemovableChip } from '../../../table/Chips.tsx';
import { keyOf } from '../../desk/opening.ts';
import { useDeskDecisions } from '../../desk/useDesk.ts';
import type { ReachWish } from '../reachWish.ts';
import { LeftPages } from './LeftPages.tsx';
import { LimitSentences } from './LimitSentences.tsx';
import { PlanRow } from './PlanRow.tsx';
import type { Rescue, RescuePlan } from './useRescue.ts';

interface Props {
  site: number;
  wish: ReachWish;
  setWish: (change: Partial<ReachWish>) => void;
  rescue: Rescue;
}

/** More links are not taken at once; the plan is made anew for the rest. */
const MOST_AT_ONCE = 5000;

/** Beyond so many pages, those out of view are not drawn. */
const MANY = 100;
const OUT_OF_VIEW = '[contain-intrinsic-size:auto_7rem] [content-visibility:auto]';

/** The rescue planner: limits as sentences, the plan by the pages that are edited, and who is left. */
export function RescuePanel({ site, wish, setWish, rescue }: Props) {
  const { takeMany, pass, isDecided } = useDeskDecisions();
  const { plan } = rescue;
  const rows = useMemo(
    () => plan?.rows.filter((row) => !isDecided(row.opening)).slice(0, MOST_AT_ONCE) ?? [],
    [plan, isDecided],
  );
  const groups = useMemo(() => grouped(rows), [rows]);
  return (
    <section aria-label="Rescue" className="flex min-h-0 flex-1 flex-col">
      <div className="border-b border-base-300 px-4 py-2.5">
        <h2 className="font-serif text-lg font-semibold">{titleOf(wish)}</h2>
        {wish.pages && (
          <p className="mb-1">
            <RemovableChip remove={() => setWish({ pages: null, secondWay: false })}>
              only what was chosen
            </RemovableChip>
          </p>
        )}
        <LimitSentences wish={wish} setWish={setWish} />
        {wish.untouched.length > 0 && (
          <p className="mt-1">
            <RemovableChip remove={() => setWish({ untouched: [] })}>
              {count(wish.untouched.length, 'page is', 'pages are')} left alone
            </RemovableChip>
          </p>
        )}
      </div>
      <div className="border-b border-base-300 bg-base-200 px-4 py-2" role="status">
        <Outcome rescue={rescue} plan={plan} links={rows.length} wish={wish} />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {rescue.error && !rescue.isLooking && (
          <p role="alert" className="px-4 py-3">
            <span className="font-semibold text-accent">{rescue.error.message}</span>{' '}
            <button type="button" className="link link-primary" onClick={rescue.retry}>
              Try again
            </button>
          </p>
        )}
        <ul>
          {groups.map(({ source, rows }) => (
            <li
              key={source.number}
              className={`border-b border-base-300 px-4 py-1.5 ${groups.length > MANY ? OUT_OF_VIEW : ''}`}
              data-testid="edited-page"
            >
              <div className="flex items-center gap-2">
                <span className="shrink-0 text-xs text-secondary">On</span>
                <span className="title-link min-w-0 flex-1 truncate">
                  <PageName site={site} page={source} />
                </span>
                <button
                  type="button"
                  className="btn btn-xs btn-ghost font-normal"
                  aria-label={`Leave alone: ${source.title}`}
                  title="Plan without edits on this page"
                  onClick={() => setWish({ untouched: [...wish.untouched, source.number] })}
                >
                  Leave alone
                </button>
              </div>
              {rows.map((row) => (
                <PlanRow
                  key={keyOf(row.opening)}
                  site={site}
                  row={row}
                  keep={(words) => rescue.keep(keyOf(row.opening), words)}
                  pass={() => {
                    rescue.keep(keyOf(row.opening), undefined);
                    pass(row.opening, 'pair');
                  }}
                />
              ))}
            </li>
          ))}
        </ul>
        {plan?.is_final && plan.left_count > 0 && <LeftPages site={site} left={plan.left} total={plan.left_count} />}
      </div>
      {rows.length > 0 && (
        <footer className="flex items-center gap-3 border-t border-base-300 bg-base-200 px-4 py-2">
          <p className="text-xs text-secondary">They go into the tray. One undo (U) takes all out again.</p>
          <button
            type="button"
            className="btn btn-sm btn-primary ml-auto whitespace-nowrap"
            onClick={() => {
              rescue.stop();
              takeMany(rows.map((row) => row.opening));
            }}
          >
            Take {rows.length === 1 ? 'the link' : `all ${number(rows.length)} links`}
          </button>
        </footer>
      )}
    </section>
  );
}

function titleOf(wish: ReachWish): string {
  const which =
    wish.pages === null ? '' : wish.pages.length === 1 ? ' one page' : ` ${count(wish.pages.length, 'page')}`;
  return wish.secondWay ? `A second way to${which}` : `Rescue${which}`;
}

function grouped(rows: RescuePlan['rows']) {
  const groups: { source: RescuePlan['rows'][number]['source']; rows: RescuePlan['rows'] }[] = [];
  for (const row of rows) {
    const last = groups.at(-1);
    if (last && last.source.number === row.source.number) {
      last.rows.push(row);
    } else {
      groups.push({ source: row.source, rows: [row] });
    }
  }
  return groups;
}

/** What the plan comes to, in figures that are right at every moment. */
function Outcome(props: { rescue: Rescue; plan: RescuePlan | undefined; links: number; wish: ReachWish }) {
  const { rescue, plan, links, wish } = props;
  const { looking, isLooking } = rescue;
  if (!plan) {
    return (
      <p className="figures flex items-center gap-2">
        {isLooking ? 'Looking for openings' : 'No plan was made.'}
        {isLooking && looking && ` for ${number(looking.done)} of ${count(looking.of, 'page')}`}
        {isLooking && <Act press={rescue.stop}>Stop</Act>}
        {!isLooking && !rescue.error && <Act press={rescue.retry}>Plan</Act>}
      </p>
    );
  }
  if (plan.wanted === 0 && wish.secondWay) {
    return <p className="font-semibold">It hangs on no single link or page any more.</p>;
  }
  if (plan.wanted === 0) {
    return (
      <p className="font-semibold">
        Every page is within {count(wish.depth, 'click')}
        {wish.linksIn > 0 && ` and has links in from ${count(wish.linksIn, 'page')}`}.
      </p>
    );
  }
  const lacking = `${count(plan.wanted, 'page falls', 'pages fall')} short of that.`;
  const helped =
    plan.helped === 0
      ? 'No opening helps.'
      : `${number(plan.helped)} can be brought back with ${count(links, 'link')} on ${count(plan.edited, 'page')}.`;
  const bound = plan.is_best
    ? 'No plan does it with fewer pages.'
    : typeof plan.least_edited === 'number'
      ? `No plan does it with fewer than ${count(plan.least_edited, 'page')}.`
      : '';
  return (
    <>
      <p className="figures">
        <strong>{lacking}</strong> {helped} {plan.helped > 0 && <span className="text-secondary">{bound}</span>}
      </p>
      {plan.lost > 0 && (
        <p className="text-accent">{count(plan.lost, 'kept link is', 'kept links are')} not possible any more.</p>
      )}
      <p className="figures flex min-h-6 items-center gap-3 text-secondary">
        {isLooking ? (
          <>
            <span className="loading loading-dots loading-xs" aria-hidden="true" />
            {looking && looking.done < looking.of
              ? `Looking for openings: ${number(looking.done)} of ${number(looking.of)}`
              : 'Looking for a better plan'}
            <Act press={rescue.stop}>Stop</Act>
          </>
        ) : (
          plan.helped > 0 && !plan.is_best && <Act press={rescue.goOn}>Look for a better plan</Act>
        )}
      </p>
    </>
  );
}

function Act({ press, children }: { press: () => void; children: ReactNode }) {
  return (
    <button type="button" className="link link-primary" onClick={press}>
      {children}
    </button>
  );
}
