// What Phrases looks for and where, as it is kept in the address bar.

import { useSearchParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { KINDS } from '../../parts/words.ts';

export type Kind = Schema['Kind'];
export type Part = Schema['PartName'];
export type State = Schema['StateName'];
export type Sort = 'mentions' | 'depth' | 'equity' | 'title';

export interface Question {
  /** One a line, as it is typed. */
  phrases: string;
  expressions: boolean;
  exact: boolean;
  keepsCase: boolean;
  keepsAccents: boolean;
  gap: number;
  /** None for all. */
  parts: Part[];
  /** On pages with these words in title, address or category. */
  on: string;
  kind: Kind | null;
  state: State;
  /** One of the phrases, by its place. */
  only: number | null;
  sort: Sort;
}

export const PARTS: Record<Part, string> = {
  text: 'running text',
  headings: 'headings',
  lists: 'lists',
  tables: 'tables',
  quotes: 'quotes',
  captions: 'captions',
  code: 'code',
  alt: 'alt texts',
  titles: 'titles',
};

export const SORTS: Record<Sort, string> = {
  mentions: 'most mentions first',
  depth: 'deepest first',
  equity: 'most equity first',
  title: 'by title',
};

const STATES: readonly State[] = ['all', 'linked', 'unlinked'];

/** At most so many other words between two of a phrase. */
export const MOST_BETWEEN = 10;

export function useQuestion(): [Question, (change: Partial<Question>) => void] {
  const [search, setSearch] = useSearchParams();
  const question = readQuestion(search);
  const set = (change: Partial<Question>) => setSearch(writeQuestion({ ...question, ...change }), { replace: true });
  return [question, set];
}

/** The question that an address holds; what it does not say, or says wrongly, is as usual. */
export function readQuestion(search: URLSearchParams): Question {
  const kind = search.get('kind') as Kind | null;
  const state = search.get('state') as State | null;
  const sort = search.get('sort') as Sort | null;
  const only = Number.parseInt(search.get('only') ?? '', 10);
  const parts = (search.get('in')?.split(',') ?? []).filter((part): part is Part => part in PARTS);
  const gap = Number.parseInt(search.get('gap') ?? '', 10);
  return {
    phrases: search.get('q') ?? '',
    expressions: search.has('regex'),
    exact: search.has('exact'),
    keepsCase: search.has('case'),
    keepsAccents: search.has('accents'),
    gap: gap > 0 ? Math.min(gap, MOST_BETWEEN) : 0,
    parts,
    on: search.get('on') ?? '',
    kind: kind && kind in KINDS ? kind : null,
    state: state && STATES.includes(state) ? state : 'all',
    only: only >= 0 ? only : null,
    sort: sort && sort in SORTS ? sort : 'mentions',
  };
}

/** What {@link readQuestion} reads as the question. */
export function writeQuestion(question: Question): URLSearchParams {
  const entries: [string, string, boolean][] = [
    ['q', question.phrases, question.phrases !== ''],
    ['regex', '', question.expressions],
    ['exact', '', question.exact],
    ['case', '', question.keepsCase],
    ['accents', '', question.keepsAccents],
    ['gap', String(question.gap), question.gap > 0],
    ['in', question.parts.join(','), question.parts.length > 0],
    ['on', question.on, question.on !== ''],
    ['kind', question.kind ?? '', question.kind !== null],
    ['state', question.state, question.state !== 'all'],
    ['only', String(question.only), question.only !== null],
    ['sort', question.sort, question.sort !== 'mentions'],
  ];
  return new URLSearchParams(entries.filter(([, , isSet]) => isSet).map(([key, value]) => [key, value]));
}

/** The phrases that are looked for: one a line, each once. */
export function phrasesOf(question: Question): string[] {
  const lines = question.phrases.split('\n').map((line) => line.trim());
  return [...new Set(lines.filter((line) => (question.expressions ? line !== '' : /[\p{L}\p{N}]/u.test(line))))];
}

/** As the server is asked. */
export function bodyOf(question: Question): Schema['MentionsWish'] {
  const phrases = phrasesOf(question);
  return {
    phrases,
    expressions: question.expressions,
    forms: !question.exact,
    keeps_case: question.keepsCase,
    keeps_accents: question.keepsAccents,
    gap: question.gap,
    parts: question.parts,
    state: question.state,
    order: question.sort === 'mentions' ? 'mentions' : 'sort',
    only: question.only !== null && question.only < phrases.length ? question.only : null,
  };
}

export function filterOf(question: Question) {
  const { sort } = question;
  return {
    text: question.on,
    ...(question.kind ? { kind: question.kind } : {}),
    ...(sort === 'mentions' ? {} : { sort, descending: sort !== 'title' }),
  };
}
