// What each kind of change makes out of date. Only that is asked for again.

import type { QueryClient } from '@tanstack/react-query';

/** Kinds of entries in a site's journal. */
export type Kind = 'pages' | 'redirects' | 'taken' | 'passed' | 'reading' | 'release' | 'site' | 'rules';

/** Answers that a change leaves as they are, by the first part of their key below the site. Other kinds change all. */
const LEAVES: Partial<Record<Kind, readonly string[]>> = {
  taken: ['readings', 'told', 'settings'],
  passed: [
    ...['readings', 'told', 'settings', 'tray', 'releases', 'faults'],
    ...['reach', 'reach-page', 'equity', 'flow'],
  ],
  reading: [
    ...['tray', 'releases', 'settings', 'limits', 'faults', 'find', 'desk', 'queue'],
    ...['best', 'bridges', 'around', 'reasons', 'rescue'],
  ],
  // The rest of the window does not know of rules.
  rules: [
    ...['readings', 'told', 'settings', 'limits', 'tray', 'releases', 'faults', 'find', 'status', 'today', 'pages'],
    ...['reach', 'reach-page', 'equity', 'flow', 'rescue', 'queue', 'best', 'bridges', 'around', 'reasons'],
  ],
  release: ['readings', 'told', 'settings', 'limits', 'find', 'best', 'bridges', 'around', 'reasons'],
};

/** What happened; `everything` where it is not known. */
export type Changes = ReadonlySet<Kind> | 'everything';

/** Whether an answer with this key, `['site', SITE, NAME, …]`, is out of date after the changes. */
export function isStale(key: readonly unknown[], site: number, changes: Changes): boolean {
  if (key[0] !== 'site' || key[1] !== site) {
    return false;
  }
  return changes === 'everything' || [...changes].some((kind) => !LEAVES[kind]?.includes(String(key[2])));
}

/** Asks again for what the changes made out of date; ends when what is on the screen is there. */
export function refresh(queries: QueryClient, site: number, changes: Changes): Promise<void> {
  return queries.invalidateQueries({ predicate: ({ queryKey }) => isStale(queryKey, site, changes) });
}

/** Where a journal stands, and what kind of change was the latest. */
export interface Told {
  seq: number;
  kind: string | undefined;
}

/** The data of an event, `SEQ` or `SEQ KIND`. */
export function readTold(data: string): Told {
  const [seq, kind] = data.split(' ');
  return { seq: Number(seq), kind };
}

/** What happened between two events; nothing when the second is no news. */
export function between(before: Told, now: Told): Changes | undefined {
  if (now.seq === before.seq) {
    return undefined;
  }
  // Where an event is missing, so is what it told.
  return now.seq === before.seq + 1 && isKind(now.kind) ? new Set([now.kind]) : 'everything';
}

export function together(one: Changes, other: Changes): Changes {
  return one === 'everything' || other === 'everything' ? 'everything' : new Set([...one, ...other]);
}

/** Up to which entry of the journal each kind of change was asked for by the one who made it. */
export type Asked = ReadonlyMap<Kind, number>;

/** With a change that the browser itself made and asked for, which was in the journal at `seq`. */
export function withAsked(asked: Asked, kinds: Iterable<Kind>, seq: number): Asked {
  const after = new Map(asked);
  for (const kind of kinds) {
    after.set(kind, Math.max(seq, after.get(kind) ?? 0));
  }
  return after;
}

/** Changes up to an entry of the journal without those that were asked for. */
export function notAsked(changes: Changes, seq: number, asked: Asked): Changes {
  if (changes === 'everything') {
    return changes;
  }
  return new Set([...changes].filter((kind) => (asked.get(kind) ?? 0) < seq));
}

const KINDS: readonly string[] = ['pages', 'redirects', 'taken', 'passed', 'reading', 'release', 'site', 'rules'];

function isKind(kind: string | undefined): kind is Kind {
  return kind !== undefined && KINDS.includes(kind);
}
