import { expect, test } from 'vitest';
import { bestOfEach, freeOf, keyOf, linksOf } from './selected.ts';
import type { Mention, MentionPage } from './useMentions.ts';

const mention = (start: number, more: Partial<Mention> = {}): Mention => ({
  phrase: 0,
  part: 'text',
  words: [start, start + 9],
  picture: null,
  sentence: { before: 'A ', anchor: 'red torch', after: ' glows.' },
  state: 'free',
  leads: null,
  why: null,
  ...more,
});

const page = (number: number, mentions: Mention[], version: string | null = 'v1'): MentionPage => ({
  page: {
    number,
    title: 'A page',
    path: '/a',
    kind: 'page',
    category: null,
    depth: 1,
    is_orphan: false,
    is_gone: false,
  },
  version,
  total: mentions.length,
  mentions,
});

test('only what could carry a link can be selected, words that are two phrases once', () => {
  const pages = [
    page(1, [
      mention(4),
      mention(4, { phrase: 1 }),
      mention(20, { state: 'linked' }),
      mention(40, { state: 'refused' }),
    ]),
    page(2, [mention(0)], null),
    page(3, [mention(0), mention(30)]),
  ];
  expect(freeOf(pages, new Set()).map((one) => one.key)).toEqual([
    'mention-1-4-13',
    'mention-3-0-9',
    'mention-3-30-39',
  ]);
  expect(freeOf(pages, new Set([keyOf(3, mention(0))]))).toHaveLength(2);
});

test('the best of a page is running text, and what comes first', () => {
  const picture = mention(0, { words: null, picture: 2, part: 'alt' });
  const free = freeOf(
    [page(1, [mention(0, { part: 'tables' }), mention(9, { part: 'lists' }), mention(50), mention(90)])],
    new Set(),
  );
  expect(bestOfEach(free)).toEqual(['mention-1-50-59']);
  expect(bestOfEach(freeOf([page(1, [picture])], new Set()))).toEqual(['mention-1-picture-2']);
});

test('links say where they stand, and on which picture', () => {
  const picture = mention(0, { words: null, picture: 2, part: 'alt' });
  expect(linksOf(freeOf([page(1, [mention(4), picture])], new Set()), 7)).toEqual([
    { source: 1, target: 7, words_start: 4, words_end: 13, version: 'v1', by_hand: true },
    { source: 1, target: 7, words_start: 0, words_end: 0, version: 'v1', by_hand: true, picture: 2 },
  ]);
});
