import { describe, expect, it } from 'vitest';
import { anyOf, draftOf, EMPTY, phrasesOf, ruleOf, termsAmong, USED_TERMS, where } from './ruleDraft.ts';

describe('a rule while it is written', () => {
  it('can be looked for once it has a phrase and a target', () => {
    expect(ruleOf(EMPTY)).toBeUndefined();
    expect(ruleOf({ ...EMPTY, phrases: ['red torch'] })).toBeUndefined();
    expect(ruleOf({ ...EMPTY, phrases: [' ', ''], target: 3 })).toBeUndefined();
    expect(ruleOf({ ...EMPTY, phrases: [' red torch ', ''], target: 3 })?.phrases).toEqual(['red torch']);
  });

  it('keeps what is known of it and is as usual in all else', () => {
    const draft = draftOf({ phrases: ['seeing'], target: { kind: 'mail', to: 'mailto:a@b.example' }, per_page: 3 });
    expect(draft.per_page).toBe(3);
    expect(draft.forms).toBe(true);
  });

  it('says where it links in a few words', () => {
    expect(where(EMPTY)).toBe('');
    expect(where({ ...EMPTY, headings: true, tables: true, any_term: ['guides'] })).toBe(
      'also in headings and tables, only in guides',
    );
    expect(where({ ...EMPTY, share: 0.25, in_total: 40 })).toBe('in 25 % of the places, at most 40 times on the site');
  });

  it('names its phrases in a sentence', () => {
    const named = (phrases: string[]) => anyOf({ ...EMPTY, phrases });
    expect(named(['seeing', ''])).toBe('seeing');
    expect(named(['a', 'b', 'c'])).toBe('a, b or c');
    expect(named(['a', 'b', 'c', 'd', 'e'])).toBe('a, b, c or 2 more');
  });

  it('stands for terms, and for phrases again as before', () => {
    const draft = { ...EMPTY, phrases: ['seeing'], target: 3, terms: USED_TERMS };
    expect(ruleOf(draft)).toMatchObject({ phrases: [], target: null, terms: { least_pages: 2 } });
    expect(where(draft)).toBe('for terms on 2 pages or more');
    expect(phrasesOf(draft)).toBe('The name of each category and tag');
    expect(draftOf({ phrases: [], terms: { taxonomy: '/tag/' } }).terms).toEqual({
      taxonomy: '/tag/',
      least_pages: 0,
      only_carriers: false,
    });
    expect(ruleOf({ ...draft, terms: null })).toMatchObject({ phrases: ['seeing'], target: 3, terms: null });
  });

  it('counts the terms that are meant', () => {
    const taxonomies = [
      { folder: '/tag/', names: ['moon'], carriers: [5, 2, 1] },
      { folder: '/category/', names: ['guides'], carriers: [9] },
    ];
    const terms = { taxonomy: null, least_pages: 2, only_carriers: false };
    expect(termsAmong(terms, taxonomies)).toBe(3);
    expect(termsAmong({ ...terms, taxonomy: '/tag/' }, taxonomies)).toBe(2);
    expect(termsAmong({ ...terms, taxonomy: '/topic/' }, taxonomies)).toBe(0);
  });

  it('is called by its first phrase', () => {
    expect(phrasesOf(EMPTY)).toBe('…');
    expect(phrasesOf({ ...EMPTY, phrases: ['seeing'] })).toBe('seeing');
    expect(phrasesOf({ ...EMPTY, phrases: ['seeing', 'seeing scale', 'air'] })).toBe('seeing (and 2 more)');
  });
});
