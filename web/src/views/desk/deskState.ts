// What is chosen and open on the Desk.

import { keyOf, type Opening, type Side } from './opening.ts';

/** What can be done with the words of an opening, beside taking and passing it. */
export type Bench = 'words' | 'target' | 'wording';

/** What is open under an opening. */
export type Under = 'reasons' | 'pass' | Bench;

/** An opening with the number of its mark in the text. */
export interface Numbered {
  opening: Opening;
  number: number;
}

/** Openings that are shown, by direction. */
export type Shown = Readonly<Record<Side, readonly Numbered[]>>;

export interface DeskState {
  /** The side that the editor chose. */
  side: Side | undefined;
  /** Key of the chosen opening, and where in its column it stood: when it goes, the next one comes into its place. */
  held: string | undefined;
  at: number;
  /** What is open, and under which opening. */
  open: { key: string; under: Under } | undefined;
}

export const BEGINNING: DeskState = { side: undefined, held: undefined, at: 0, open: undefined };

export type Step =
  | { do: 'choose'; side: Side; at: number }
  /** By so many rows down. */
  | { do: 'move'; by: number }
  | { do: 'toggle'; opening: Opening; under: Under }
  | { do: 'close' };

/** Where an editor is: the side, the row, and what stands there. */
export interface Here {
  side: Side;
  /** -1 where the column is empty. */
  at: number;
  current: Numbered | undefined;
}

export function whereIs(state: DeskState, shown: Shown): Here {
  const side = state.side ?? (shown.in.length === 0 && shown.out.length > 0 ? 'out' : 'in');
  const rows = shown[side];
  const held = rows.findIndex(({ opening }) => keyOf(opening) === state.held);
  const at = held >= 0 ? held : Math.min(state.at, rows.length - 1);
  return { side, at, current: rows[at] };
}

/** The state after a step, among the openings that are shown. */
export function step(state: DeskState, shown: Shown, taken: Step): DeskState {
  switch (taken.do) {
    case 'choose':
      return { ...chosen(state, shown, taken.side, taken.at), open: undefined };
    case 'move': {
      const { side, at } = whereIs(state, shown);
      return { ...chosen(state, shown, side, at + taken.by), open: undefined };
    }
    case 'toggle': {
      const key = keyOf(taken.opening);
      const at = (side: Side) => shown[side].findIndex(({ opening }) => keyOf(opening) === key);
      const side = at('in') >= 0 ? 'in' : 'out';
      const isOpen = state.open?.key === key && state.open.under === taken.under;
      const open = isOpen ? undefined : { key, under: taken.under };
      return at(side) < 0 ? { ...state, open } : { ...chosen(state, shown, side, at(side)), open };
    }
    case 'close':
      return state.open ? { ...state, open: undefined } : state;
  }
}

/** The state that holds on to what stands there now, so that it means the same when rows come and go. */
export function settled(state: DeskState, { at, current }: Here): DeskState {
  const key = current && keyOf(current.opening);
  return key === undefined || (state.held === key && state.at === at) ? state : { ...state, held: key, at };
}

function chosen(state: DeskState, shown: Shown, side: Side, row: number): DeskState {
  const rows = shown[side];
  const at = Math.max(0, Math.min(row, rows.length - 1));
  const there = rows[at];
  return { ...state, side, at, held: there && keyOf(there.opening) };
}
