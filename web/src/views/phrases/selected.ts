// Which mentions can carry a link, and the links that are taken on those that are chosen.

import type { Schema } from '../../api/client.ts';
import type { What } from '../../decisions/entry.ts';
import type { Mention, MentionPage } from './useMentions.ts';

/** A mention that could carry a link. */
export interface FreeMention {
  key: string;
  page: number;
  version: string;
  mention: Mention;
}

/** By which a mention is known, whatever is asked for. */
export function keyOf(page: number, mention: Mention): string {
  const place = mention.words ? mention.words.join('-') : `picture-${mention.picture}`;
  return `mention-${page}-${place}`;
}

/** Those that could carry a link and are not on their way into the tray. */
export function freeOf(pages: readonly MentionPage[], hidden: ReadonlySet<string>): FreeMention[] {
  const found = new Map<string, FreeMention>();
  for (const { page, version, mentions } of pages) {
    for (const mention of mentions.filter((one) => one.state === 'free')) {
      const key = keyOf(page.number, mention);
      if (version && !hidden.has(key)) {
        found.set(key, { key, page: page.number, version, mention });
      }
    }
  }
  return [...found.values()];
}

/** The best one of each page: running text before lists and all else, and what comes first. */
export function bestOfEach(free: readonly FreeMention[]): string[] {
  const best = new Map<number, FreeMention>();
  for (const one of free) {
    const before = best.get(one.page);
    if (!before || rank(one) < rank(before)) {
      best.set(one.page, one);
    }
  }
  return [...best.values()].map((one) => one.key);
}

function rank({ mention }: FreeMention): number {
  return mention.part === 'text' ? 0 : mention.part === 'lists' ? 1 : 2;
}

/** Links on these that lead to a target. */
export function linksOf(chosen: readonly FreeMention[], target: Schema['TargetWish']): TakeWish[] {
  return chosen.map(({ page, version, mention }) => ({
    source: page,
    target,
    words_start: mention.words?.[0] ?? 0,
    words_end: mention.words?.[1] ?? 0,
    version,
    by_hand: true,
    ...(mention.picture === null || mention.picture === undefined ? {} : { picture: mention.picture }),
  }));
}

type TakeWish = Extract<What, { kind: 'take' }>['links'][number];
