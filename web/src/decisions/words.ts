// Decisions in words.

import type { Schema } from '../api/client.ts';
import { count } from '../parts/words.ts';
import type { Entry } from './entry.ts';

const DONE: Record<Schema['DecisionKind'], (words: string) => string> = {
  take: (words) => `Taken: ${quoted(words)} in the tray.`,
  drop: (words) => `Dropped: ${quoted(words)} out of the tray.`,
  pass: (words) => `Passed: “${words}” is set aside.`,
  bring_back: () => 'Brought back among the openings.',
  repair: (words) => `Mended: “${words}” is in the tray.`,
};

const UNDONE: Record<Schema['DecisionKind'], (words: string) => string> = {
  take: (words) => `Undone: ${quoted(words)} out of the tray again.`,
  drop: (words) => `Undone: ${quoted(words)} in the tray again.`,
  pass: (words) => `Undone: “${words}” is back among the openings.`,
  bring_back: () => 'Undone: the opening is set aside again.',
  repair: (words) => `Undone: the link on “${words}” stays as it is.`,
};

const REDONE: Record<Schema['DecisionKind'], (words: string) => string> = {
  take: (words) => `Done again: ${quoted(words)} in the tray.`,
  drop: (words) => `Done again: ${quoted(words)} out of the tray.`,
  pass: (words) => `Done again: “${words}” is set aside.`,
  bring_back: () => 'Done again: the opening is back.',
  repair: (words) => `Done again: “${words}” is in the tray.`,
};

/** When there was nothing to do. */
export const NOTHING: Record<Entry['order']['do'], string> = {
  decide: '',
  undo: 'There is nothing to undo. What went out is taken back in History.',
  redo: 'There is nothing to do again.',
};

/** “the words” is, or 3 links are. */
function quoted(words: string): string {
  const many = /^(\d+) links$/.exec(words);
  return many ? `${count(Number(many[1]), 'link')} are` : `“${words}” is`;
}

export function told(entry: Entry, decided: Schema['Decided']): string {
  const tables = { decide: DONE, undo: UNDONE, redo: REDONE };
  return tables[entry.order.do][decided.kind](decided.words);
}

const REFUSED: Record<string, string> = {
  take: 'was not taken',
  drop: 'was not dropped',
  pass: 'was not passed',
  bring_back: 'was not brought back',
  repair: 'was not mended',
};

/** Why a decision was refused, naming it where it was made a while ago. */
export function refused(entry: Entry, refusal: string, late: boolean): string {
  if (!late || entry.order.do !== 'decide') {
    return refusal;
  }
  return `“${entry.words}” ${REFUSED[entry.order.what.kind]}. ${refusal}`;
}

/** What of many could not be taken, and why the first could not. */
export function notTaken(lost: Schema['Refused'][]): string {
  const first = lost[0];
  return first ? `${count(lost.length, 'link')} could not be taken; “${first.words}”: ${first.why}` : '';
}
