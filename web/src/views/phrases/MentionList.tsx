import { useQueries } from '@tanstack/react-query';
import { useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { PageName } from '../../parts/PageName.tsx';
import { SentenceText } from '../../parts/SentenceText.tsx';
import { count, KINDS, number } from '../../parts/words.ts';
import { FilterChip } from '../../table/Chips.tsx';
import { PARTS, type Question, SORTS, type Sort, type State } from './question.ts';
import { keyOf } from './selected.ts';
import { allOfPage, type Mention, type MentionPage, type useMentions } from './useMentions.ts';

interface Props {
  site: number;
  question: Question;
  set: (change: Partial<Question>) => void;
  mentions: ReturnType<typeof useMentions>;
  /** What is on its way into the tray. */
  hidden: ReadonlySet<string>;
  selected: ReadonlySet<string>;
  toggle: (key: string) => void;
}

const STATES: Record<State, string> = { all: 'All', linked: 'Linked', unlinked: 'Not linked' };

/** Mentions by their pages, in their sentences. */
export function MentionList({ site, question, set, mentions, hidden, selected, toggle }: Props) {
  const { found, pages, isOld, isLooking, error, retry, more, isMoreComing } = mentions;
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-2">
        {(Object.keys(STATES) as State[]).map((state) => (
          <FilterChip key={state} isOn={question.state === state} press={() => set({ state })}>
            {STATES[state]}
          </FilterChip>
        ))}
        <select
          className="select select-sm ml-auto w-auto"
          aria-label="Order of the pages"
          value={question.sort}
          onChange={(event) => set({ sort: event.target.value as Sort })}
        >
          {(Object.keys(SORTS) as Sort[]).map((sort) => (
            <option key={sort} value={sort}>
              {SORTS[sort]}
            </option>
          ))}
        </select>
      </div>
      <p
        role="status"
        className={`figures flex min-h-9 items-center gap-2 border-b border-base-300 bg-base-200 px-4 py-1.5 ${isOld ? 'opacity-60' : ''}`}
      >
        {found && !error && <Summary found={found} question={question} />}
        {isLooking && <span className="loading loading-dots loading-xs text-secondary" aria-hidden="true" />}
      </p>
      <div className={`min-h-0 flex-1 overflow-y-auto ${isOld ? 'opacity-60' : ''}`}>
        {error && (
          <p role="alert" className="px-4 py-3">
            <span className="font-semibold text-accent">{error.message}</span>{' '}
            <button type="button" className="link link-primary" onClick={retry}>
              Try again
            </button>
          </p>
        )}
        {!error && <Pages {...{ site, question, pages, hidden, selected, toggle }} />}
        {more && !error && (
          <p className="px-4 py-3">
            <button
              type="button"
              className="btn btn-sm btn-ghost border-base-300"
              disabled={isMoreComing}
              onClick={more}
            >
              Show more pages
            </button>
          </p>
        )}
      </div>
    </>
  );
}

function Summary({ found, question }: { found: Schema['Mentions']; question: Question }) {
  const { mentions, pages, texts_to_come: toCome } = found;
  const still = toCome ? ` The texts of ${count(toCome, 'page')} are still to come.` : '';
  if (mentions === 0) {
    return (
      <span>
        <strong>{nothing(question, found)}</strong>
        {still}
      </span>
    );
  }
  const word = { all: 'mention', linked: 'linked mention', unlinked: 'mention without a link' }[question.state];
  const words = { all: 'mentions', linked: 'linked mentions', unlinked: 'mentions without a link' }[question.state];
  return (
    <span>
      <strong>{count(mentions, word, words)}</strong> on {count(pages, 'page')}.{still}
    </span>
  );
}

function nothing(question: Question, found: Schema['Mentions']): string {
  const all = found.phrases.reduce((sum, phrase) => sum + phrase.mentions, 0);
  if (all > 0 && question.state !== 'all') {
    return question.state === 'linked' ? 'No mention carries a link.' : 'Every mention carries a link.';
  }
  return question.on || question.kind || question.parts.length > 0
    ? 'Nothing is found where you look. Look in more parts, or on more pages.'
    : 'The site says this nowhere.';
}

function Pages(props: Pick<Props, 'site' | 'question' | 'hidden' | 'selected' | 'toggle'> & { pages: MentionPage[] }) {
  const { site, question, pages, hidden, selected, toggle } = props;
  const [opened, setOpened] = useState<readonly number[]>([]);
  const whole = useQueries({
    queries: opened.map((page) => ({
      queryKey: ['site', site, 'mentions', 'of page', question, page],
      queryFn: () => allOfPage(site, question, page).then((row) => row ?? null),
    })),
    combine: (results) => new Map(results.flatMap(({ data }) => (data ? [[data.page.number, data] as const] : []))),
  });
  return (
    <ul>
      {pages.map((first) => {
        const { page, mentions, total } = whole.get(first.page.number) ?? first;
        return (
          <li
            key={page.number}
            className="border-b border-base-300 px-4 py-2 [contain-intrinsic-size:auto_5rem] [content-visibility:auto]"
            data-testid="page-with-mentions"
          >
            <p className="flex items-baseline gap-3">
              <span className="title-link min-w-0 truncate">
                <PageName site={site} page={page} />
              </span>
              <span className="figures shrink-0 text-xs text-secondary">
                {KINDS[page.kind]}
                {page.depth !== null && page.depth !== undefined && `, depth ${page.depth}`}
                {`, ${count(total, 'mention')}`}
              </span>
            </p>
            {mentions.map((mention) => {
              const key = keyOf(page.number, mention);
              return (
                <MentionLine
                  key={`${key}-${mention.phrase}`}
                  site={site}
                  mention={mention}
                  isOnItsWay={hidden.has(key)}
                  isSelected={selected.has(key)}
                  toggle={() => toggle(key)}
                />
              );
            })}
            {mentions.length < total && (
              <button
                type="button"
                className="mt-1 text-primary underline"
                onClick={() => setOpened([...opened, page.number])}
              >
                Show {number(total - mentions.length)} more on this page
              </button>
            )}
          </li>
        );
      })}
    </ul>
  );
}

interface LineProps {
  site: number;
  mention: Mention;
  isOnItsWay: boolean;
  isSelected: boolean;
  toggle: () => void;
}

function MentionLine({ site, mention, isOnItsWay, isSelected, toggle }: LineProps) {
  const { state, sentence, part, leads, why } = mention;
  const isFree = state === 'free' && !isOnItsWay;
  const carries = { free: 'could', linked: 'existing', in_tray: 'link', refused: 'nothing' } as const;
  return (
    <div className="flex items-start gap-2 py-1" data-testid="mention">
      <span className="w-5 shrink-0">
        {isFree && (
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={isSelected}
            onChange={toggle}
            aria-label={`Select ${sentence.before.slice(-40)}${sentence.anchor}${sentence.after.slice(0, 40)}`}
          />
        )}
      </span>
      <div className="min-w-0 flex-1">
        {state === 'refused' ? (
          <Refused sentence={sentence} />
        ) : (
          <SentenceText sentence={sentence} carries={carries[state]} />
        )}
        <p className="text-xs text-secondary">
          {part !== 'text' && <span>{IN[part]}</span>}
          {part !== 'text' && (leads || (why && part !== 'titles')) && ' · '}
          {leads && (
            <span>
              {state === 'in_tray' ? 'in the tray → ' : '→ '}
              {leads.page ? (
                <PageName site={site} page={leads.page} />
              ) : (
                <span className="break-all">{leads.href}</span>
              )}
            </span>
          )}
          {part !== 'titles' && why}
          {isOnItsWay && state === 'free' && 'on its way into the tray'}
        </p>
      </div>
    </div>
  );
}

/** Words that cannot carry a link are set apart all the same. */
function Refused({ sentence }: { sentence: Schema['Sentence'] }) {
  return (
    <span className="font-serif text-[0.95rem] leading-snug" dir="auto">
      {sentence.before}
      <b>{sentence.anchor}</b>
      {sentence.after}
    </span>
  );
}

const IN: Record<Schema['PartName'], string> = {
  ...PARTS,
  headings: 'in a heading',
  lists: 'in a list',
  tables: 'in a table',
  quotes: 'in a quote',
  captions: 'in a caption',
  code: 'in code',
  alt: 'alt text of a picture',
  titles: 'the title of the page',
};
