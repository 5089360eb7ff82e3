// A rule while it is written, and what it says in plain words.

import type { Schema } from '../../api/client.ts';

export type Rule = Schema['RuleWish'];
export type Leads = Schema['RuleLeads'];

export type Taxonomy = Schema['Taxonomy'];
export type Terms = Required<Schema['TermsWish']>;

/** A rule that may have no phrases and lead nowhere yet. */
export interface Draft extends Omit<Required<Rule>, 'target' | 'terms'> {
  target: Schema['TargetWish'] | undefined;
  terms: Terms | null;
}

export const EMPTY: Draft = {
  phrases: [],
  target: undefined,
  terms: null,
  expressions: false,
  forms: true,
  keeps_case: false,
  keeps_accents: false,
  gap: 0,
  not_beside: [],
  title: null,
  nofollow: false,
  sponsored: false,
  ugc: false,
  new_tab: false,
  class: null,
  data: null,
  tracking: [],
  kinds: [],
  any_term: [],
  all_terms: [],
  no_term: [],
  shares_term: false,
  paths: [],
  not_paths: [],
  languages: [],
  since: null,
  before: null,
  only: [],
  never: [],
  headings: false,
  tables: false,
  quotes: false,
  captions: false,
  code: false,
  within: [],
  without: [],
  first_words_free: 0,
  per_page: 1,
  per_phrase: 1,
  per_sentence: null,
  in_total: null,
  share: 1,
  skips_linked_pages: true,
  counts_other_links: true,
  links_back: true,
  priority: 0,
  is_on: true,
  at_once: false,
};

const NO_TERMS: Terms = { taxonomy: null, least_pages: 0, only_carriers: false };

/** For which terms a rule stands at first. */
export const USED_TERMS: Terms = { ...NO_TERMS, least_pages: 2 };

/** How many terms are meant. */
export function termsAmong({ taxonomy, least_pages }: Terms, taxonomies: readonly Taxonomy[]): number {
  return taxonomies
    .filter(({ folder }) => (taxonomy ?? folder) === folder)
    .reduce((sum, { carriers }) => sum + carriers.filter((pages) => pages >= least_pages).length, 0);
}

/** A rule as it is kept, to be changed. */
export function draftOf({ target, terms, ...rule }: Rule): Draft {
  return { ...EMPTY, ...rule, target: target ?? undefined, terms: terms ? { ...NO_TERMS, ...terms } : null };
}

/** What can be looked for and kept; nothing while phrases or the target are missing. */
export function ruleOf(draft: Draft): Rule | undefined {
  if (draft.terms) {
    return { ...draft, phrases: [], target: null };
  }
  const phrases = draft.phrases.map((phrase) => phrase.trim()).filter((phrase) => phrase !== '');
  return phrases.length > 0 && draft.target !== undefined ? { ...draft, phrases, target: draft.target } : undefined;
}

const BLOCKS = {
  headings: 'headings',
  tables: 'tables',
  quotes: 'quotes',
  captions: 'captions',
  code: 'code',
} as const;

export type Block = keyof typeof BLOCKS;
export const BLOCK_NAMES = Object.entries(BLOCKS) as [Block, string][];

/** How often it links on a page. */
export function often(perPage: number): string {
  return perPage === 1 ? 'once a page' : perPage === 2 ? 'twice a page' : `${perPage} times a page`;
}

/** Where it links, in a few words; empty where nothing was set. */
export function where(rule: Rule | Draft): string {
  const also = BLOCK_NAMES.filter(([block]) => rule[block]).map(([, name]) => name);
  const parts = [
    rule.terms?.only_carriers && 'only on pages that carry it',
    rule.terms && (rule.terms.least_pages ?? 0) > 1 && `for terms on ${rule.terms.least_pages} pages or more`,
    also.length > 0 && `also in ${listed(also)}`,
    rule.any_term?.length && `only in ${listed(rule.any_term)}`,
    rule.all_terms?.length && `only where ${listed(rule.all_terms)} meet`,
    rule.no_term?.length && `not in ${listed(rule.no_term)}`,
    rule.shares_term && 'only on pages of the target’s subject',
    rule.kinds?.length && `only on ${listed(rule.kinds.map((kind) => `${kind.replace('_', ' ')}s`))}`,
    rule.paths?.length && `only below ${listed(rule.paths)}`,
    rule.not_paths?.length && `not below ${listed(rule.not_paths)}`,
    rule.languages?.length && `only in pages of ${listed(rule.languages)}`,
    rule.since && `on pages since ${rule.since}`,
    rule.before && `on pages before ${rule.before}`,
    rule.only?.length && `only on ${rule.only.length === 1 ? 'one page' : `${rule.only.length} pages`}`,
    rule.never?.length && `not on ${rule.never.length === 1 ? 'one page' : `${rule.never.length} pages`}`,
    rule.within?.length && `only in ${listed(rule.within, 'or')}`,
    rule.without?.length && `not in ${listed(rule.without, 'or')}`,
    rule.first_words_free && `after the first ${rule.first_words_free} words`,
    rule.share !== undefined && rule.share < 1 && `in ${Math.round(rule.share * 100)} % of the places`,
    typeof rule.in_total === 'number' && `at most ${rule.in_total} times on the site`,
  ];
  return parts.filter((part): part is string => typeof part === 'string').join(', ');
}

function listed(words: readonly string[], last = 'and'): string {
  return words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1)}`;
}

/** How many phrases are named in a sentence. */
const NAMED = 3;

/** What is linked, in a sentence. */
export function anyOf(rule: Rule | Draft): string {
  if (rule.terms) {
    return namesOf(rule.terms);
  }
  const said = rule.phrases.filter((phrase) => phrase.trim() !== '');
  const more = said.length - NAMED;
  return said.length === 0 ? '…' : listed(more > 0 ? [...said.slice(0, NAMED), `${more} more`] : said, 'or');
}

function namesOf({ taxonomy }: Schema['TermsWish']): string {
  return taxonomy ? `the name of each term in ${taxonomy}` : 'the name of each category and tag';
}

/** What is linked, as one would say it. */
export function phrasesOf(rule: Rule | Draft): string {
  if (rule.terms) {
    const name = namesOf(rule.terms);
    return name.charAt(0).toUpperCase() + name.slice(1);
  }
  const [first, ...others] = rule.phrases.filter((phrase) => phrase.trim() !== '');
  return first === undefined ? '…' : others.length === 0 ? first : `${first} (and ${others.length} more)`;
}
