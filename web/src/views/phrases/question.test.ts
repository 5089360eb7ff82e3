import { describe, expect, test } from 'vitest';
import { bodyOf, filterOf, phrasesOf, type Question, readQuestion, writeQuestion } from './question.ts';

const USUAL = readQuestion(new URLSearchParams());

const SET: Question = {
  phrases: 'red torch\naverted vision',
  expressions: false,
  exact: true,
  keepsCase: true,
  keepsAccents: true,
  gap: 2,
  parts: ['headings', 'alt'],
  on: 'guides',
  kind: 'post',
  state: 'unlinked',
  only: 1,
  sort: 'equity',
};

describe('the address bar', () => {
  test('brings back what was asked', () => {
    for (const question of [USUAL, SET, { ...SET, expressions: true, only: 0, state: 'linked' as const }]) {
      expect(readQuestion(new URLSearchParams(writeQuestion(question).toString()))).toEqual(question);
    }
    expect(writeQuestion(USUAL).toString()).toBe('');
  });

  test('is not trusted', () => {
    const wrong = new URLSearchParams('kind=planet&state=odd&sort=luck&in=text,footnotes&gap=99&only=-1');
    expect(readQuestion(wrong)).toEqual({ ...USUAL, parts: ['text'], gap: 10 });
  });
});

describe('what the server is asked', () => {
  test('is each phrase once, and none without a word', () => {
    expect(phrasesOf({ ...USUAL, phrases: ' red torch \n\n…\nred torch\nMond' })).toEqual(['red torch', 'Mond']);
    expect(phrasesOf({ ...USUAL, phrases: '\\.\n', expressions: true })).toEqual(['\\.']);
  });

  test('tells forms, order and the one phrase', () => {
    expect(bodyOf(SET)).toMatchObject({ forms: false, gap: 2, order: 'sort', only: 1, state: 'unlinked' });
    expect(bodyOf({ ...SET, phrases: 'red torch' }).only).toBeNull();
    expect(filterOf(SET)).toEqual({ text: 'guides', kind: 'post', sort: 'equity', descending: true });
    expect(filterOf(USUAL)).toEqual({ text: '' });
  });
});
