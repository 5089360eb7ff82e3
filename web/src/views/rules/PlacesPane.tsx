import { type ReactNode, useMemo, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { useDecisions } from '../../decisions/context.ts';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { count, number } from '../../parts/words.ts';
import { FilterChip } from '../../table/Chips.tsx';
import { phrasesOf } from './ruleDraft.ts';
import { type Asked, type Place, type PlacePage, usePlaces } from './usePlaces.ts';
import { type RuleRow, useRuleActions } from './useRules.ts';

interface Props {
  site: number;
  asked: Asked | undefined;
  empty: ReactNode;
  /** All rules, by which places are named. */
  rules: readonly RuleRow[];
  /** Whether links can be taken: not while a rule is written. */
  takes: boolean;
  /** What stands at the foot, beside or in place of the taking. */
  children?: ReactNode;
}

type Shown = 'wanted' | 'there' | 'held';

/** Beyond so many pages, those out of view are not drawn. */
const MANY = 100;
const OUT_OF_VIEW = '[contain-intrinsic-size:auto_5rem] [content-visibility:auto]';

/** The places of rules by their pages: what would be linked, what is, and what is held back. */
export function PlacesPane({ site, asked, empty, rules, takes, children }: Props) {
  const { places, isOld, isLooking, progress, error, retry } = usePlaces(site, asked);
  const { decide, hidden } = useDecisions();
  const { pass } = useRuleActions(site);
  const [shown, setShown] = useState<Shown>('wanted');
  const [ofRule, setOfRule] = useState<number>();
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const byNumber = useMemo(() => new Map(rules.map((row) => [row.number, row])), [rules]);
  const pages = useMemo(() => shownPages(places?.pages ?? [], shown, hidden, ofRule), [places, shown, hidden, ofRule]);
  const named = useMemo(() => rulesOf(places?.pages ?? [], shown), [places, shown]);
  const taken = useMemo(
    () =>
      pages.flatMap(({ page, version, places }) =>
        places
          .filter((place) => place.state === 'wanted' && !leftOut.has(keyOf(page.number, place)))
          .map((place) => ({ page: page.number, version, place })),
      ),
    [pages, leftOut],
  );
  const summed = places?.summed;
  const toggle = (key: string) => {
    const after = new Set(leftOut);
    if (!after.delete(key)) {
      after.add(key);
    }
    setLeftOut(after);
  };
  const take = () =>
    decide(
      {
        kind: 'take',
        links: taken.map(({ page, version, place }) => ({
          source: page,
          target: place.target,
          words_start: place.words_start,
          words_end: place.words_end,
          version,
          by_hand: true,
          rule: place.rule,
        })),
      },
      taken.length === 1 ? (taken[0]?.place.sentence.anchor ?? '') : count(taken.length, 'link'),
      taken.map(({ page, place }) => keyOf(page, place)),
    );
  const counts = { wanted: summed?.counts.wanted, there: there(summed), held: summed?.counts.held };
  return (
    <section aria-label="Places" className="flex min-h-0 flex-1 flex-col">
      <div className="border-b border-base-300 bg-base-200 px-4 py-2" role="status">
        <Outcome asked={asked} summed={summed} isOld={isOld} />
        {isLooking && (
          <p className="figures flex items-center gap-2 text-secondary">
            <span className="loading loading-dots loading-xs" aria-hidden="true" />
            {progress && progress.of > 0
              ? `Looking: ${number(progress.done)} of ${count(progress.of, 'page')}`
              : 'Looking'}
          </p>
        )}
      </div>
      {asked && (
        <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-2">
          {(Object.keys(SHOWN) as Shown[]).map((one) => (
            <FilterChip key={one} isOn={shown === one} press={() => setShown(one)}>
              {SHOWN[one]} <span className="figures font-normal">{number(counts[one] ?? 0)}</span>
            </FilterChip>
          ))}
          {(named.size > 1 || ofRule !== undefined) && (
            <select
              className="select select-sm w-auto max-w-72"
              aria-label="Rule"
              value={ofRule ?? ''}
              onChange={(event) => setOfRule(event.target.value === '' ? undefined : Number(event.target.value))}
            >
              <option value="">all rules</option>
              {rules
                .filter((row) => named.has(row.number) || row.number === ofRule)
                .map((row) => (
                  <option key={row.number} value={row.number}>
                    {phrasesOf(row.rule)} ({number(named.get(row.number) ?? 0)})
                  </option>
                ))}
            </select>
          )}
        </div>
      )}
      <div className={`min-h-0 flex-1 overflow-y-auto ${isOld ? 'opacity-60' : ''}`}>
        {!asked && <div className="px-4 py-3 text-secondary">{empty}</div>}
        {error && !isLooking && (
          <p role="alert" className="px-4 py-3">
            <span className="font-semibold text-accent">{error.message}</span>{' '}
            <button type="button" className="link link-primary" onClick={retry}>
              Try again
            </button>
          </p>
        )}
        {asked && shown === 'held' && summed && <Reasons summed={summed} rules={byNumber} />}
        {asked && summed && !error && pages.length === 0 && <p className="px-4 py-3 text-secondary">{NONE[shown]}</p>}
        {asked && (
          <ul>
            {pages.map(({ page, places: onPage }) => (
              <li
                key={page.number}
                className={`border-b border-base-300 px-4 py-1.5 ${pages.length > MANY ? OUT_OF_VIEW : ''}`}
                data-testid="page-with-places"
              >
                <p className="flex items-center gap-2">
                  <span className="shrink-0 text-xs text-secondary">On</span>
                  <span className="title-link min-w-0 flex-1 truncate">
                    <PageName site={site} page={page} />
                  </span>
                </p>
                {onPage.map((place) => (
                  <PlaceLine
                    key={keyOf(page.number, place)}
                    place={place}
                    leads={
                      rules.length > 1 || byNumber.get(place.rule)?.rule.terms || asked.draft?.terms
                        ? place.leads
                        : undefined
                    }
                    isKept={takes ? !leftOut.has(keyOf(page.number, place)) : undefined}
                    toggle={() => toggle(keyOf(page.number, place))}
                    pass={
                      takes
                        ? (are_passed) =>
                            pass.mutate({
                              places: [{ rule: place.rule, page: page.number, spot: place.spot }],
                              are_passed,
                            })
                        : undefined
                    }
                  />
                ))}
              </li>
            ))}
          </ul>
        )}
        {summed?.is_cut && (
          <p className="px-4 py-2 text-secondary">There are more places than are shown: take these first.</p>
        )}
      </div>
      {(children || (takes && shown === 'wanted' && pages.length > 0)) && (
        <footer className="flex flex-wrap items-center gap-3 border-t border-base-300 bg-base-200 px-4 py-2">
          {children}
          {takes && shown === 'wanted' && pages.length > 0 && (
            <>
              <p className="text-xs text-secondary">They go into the tray. One undo (U) takes all out again.</p>
              <button
                type="button"
                className="btn btn-sm btn-primary ml-auto whitespace-nowrap"
                disabled={taken.length === 0 || isLooking}
                onClick={take}
              >
                Take {taken.length === 1 ? 'the link' : count(taken.length, 'link')}
              </button>
            </>
          )}
        </footer>
      )}
    </section>
  );
}

const SHOWN: Record<Shown, string> = { wanted: 'Would link', there: 'Linked', held: 'Held back' };

const NONE: Record<Shown, string> = {
  wanted: 'There is nothing left to link.',
  there: 'No place carries its link yet.',
  held: 'Nothing is held back.',
};

function keyOf(page: number, place: Place): string {
  return `rule-${place.rule}-${page}-${place.words_start}`;
}

function there(summed: Schema['PlacesSummed'] | undefined): number | undefined {
  return summed && summed.counts.there + summed.counts.planned;
}

const isIn = (place: Place, shown: Shown) => place.state === shown || (shown === 'there' && place.state === 'planned');

/** How many of these places each rule has. */
function rulesOf(pages: readonly PlacePage[], shown: Shown): ReadonlyMap<number, number> {
  const counts = new Map<number, number>();
  for (const place of pages.flatMap((page) => page.places).filter((one) => isIn(one, shown))) {
    counts.set(place.rule, (counts.get(place.rule) ?? 0) + 1);
  }
  return counts;
}

function shownPages(
  pages: readonly PlacePage[],
  shown: Shown,
  hidden: ReadonlySet<string>,
  ofRule: number | undefined,
): PlacePage[] {
  const isShown = (page: number, place: Place) =>
    (ofRule === undefined || place.rule === ofRule) && isIn(place, shown) && !hidden.has(keyOf(page, place));
  return pages
    .map((one) => ({ ...one, places: one.places.filter((place) => isShown(one.page.number, place)) }))
    .filter((one) => one.places.length > 0);
}

/** What it comes to, in a sentence. */
function Outcome({
  asked,
  summed,
  isOld,
}: {
  asked: Asked | undefined;
  summed: Schema['PlacesSummed'] | undefined;
  isOld: boolean;
}) {
  if (!asked) {
    return <p className="text-secondary">Nothing to look for yet.</p>;
  }
  if (!summed) {
    return null;
  }
  const { pages, wanted, held } = summed.counts;
  if (pages === 0) {
    return <p className="font-semibold">These words stand on no page where the rule may link.</p>;
  }
  const parts = [
    `${count(wanted, 'place')} would be linked`,
    (there(summed) ?? 0) > 0 && `${number(there(summed) ?? 0)} ${there(summed) === 1 ? 'is' : 'are'} linked`,
    held > 0 && `${number(held)} held back`,
  ].filter(Boolean);
  return (
    <p className={`figures ${isOld ? 'opacity-60' : ''}`}>
      <strong>On {count(pages, 'page')}:</strong> {parts.join(', ')}.
      {summed.crowded > 0 && ` ${count(summed.crowded, 'page has', 'pages have')} no room for more links of rules.`}
    </p>
  );
}

/** Why places are held back, and which rules have the words instead. */
function Reasons({ summed, rules }: { summed: Schema['PlacesSummed']; rules: ReadonlyMap<number, RuleRow> }) {
  return (
    <ul aria-label="Reasons" className="figures border-b border-base-300 px-4 py-2 text-secondary">
      {summed.reasons.map(({ why, count: places }) => (
        <li key={why}>
          {number(places)} × {why}
        </li>
      ))}
      {summed.rivals.map(({ rule, count: places }) => {
        const rival = rules.get(rule);
        return (
          <li key={rule} className="font-semibold text-accent">
            {number(places)} go to the rule for “{rival ? phrasesOf(rival.rule) : `number ${rule}`}”.
          </li>
        );
      })}
    </ul>
  );
}

interface LineProps {
  place: Place;
  /** Where it leads, if not all lead there. */
  leads: string | undefined;
  /** Whether it is to be taken; nothing where nothing can be. */
  isKept: boolean | undefined;
  toggle: () => void;
  pass: ((isPassed: boolean) => void) | undefined;
}

function PlaceLine({ place, leads, isKept, toggle, pass }: LineProps) {
  const { state, sentence, why, is_passed: isException } = place;
  const label = `${sentence.anchor}${leads ? ` → ${leads}` : ''}`;
  return (
    <div className="flex items-start gap-2 py-1" data-testid="place">
      {isKept !== undefined && state === 'wanted' && (
        <input
          type="checkbox"
          className="checkbox checkbox-sm mt-0.5"
          checked={isKept}
          onChange={toggle}
          aria-label={`Take ${label}`}
        />
      )}
      <div className="min-w-0 flex-1">
        <SentenceText
          sentence={sentence}
          carries={state === 'wanted' ? 'link' : state === 'held' ? 'could' : 'existing'}
        />
        {(leads || why || state === 'planned') && (
          <p className="text-xs text-secondary">
            {leads && <>→ {leads}</>}
            {leads && (why || state === 'planned') && ' · '}
            {state === 'planned' ? 'in the tray' : why}
          </p>
        )}
      </div>
      {pass && (state === 'wanted' || isException) && (
        <button
          type="button"
          className="btn btn-xs btn-ghost font-normal"
          aria-label={isException ? `Bring back: ${label}` : `Pass: ${label}`}
          title={isException ? 'The rule may link here again' : 'The rule does not link here any more'}
          onClick={() => pass(!isException)}
        >
          {isException ? 'Bring back' : 'Pass'}
        </button>
      )}
    </div>
  );
}
