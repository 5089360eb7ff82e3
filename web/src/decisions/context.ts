import { createContext, use } from 'react';
import type { Asked } from '../api/stale.ts';
import type { What } from './entry.ts';
import type { Waiting } from './outbox.ts';

export interface Decisions {
  /** Sends a decision on its way. `words` name it; `hides` is what it takes from view. */
  decide: (what: What, words: string, hides?: string[]) => void;
  undo: () => void;
  redo: () => void;
  /** Tries at once to send what waits. */
  nudge: () => void;
  /** Gives up a decision that waits. */
  leaveOut: (key: string) => void;
  /** What this browser's own decisions changed, and is asked for already. */
  asked: () => Asked;
  /** What is not with the server yet. */
  waiting: Waiting;
  /** What is decided on but may still be offered, as its decisions name it. */
  hidden: ReadonlySet<string>;
}

export const DecisionsContext = createContext<Decisions | null>(null);

export function useDecisions(): Decisions {
  const decisions = use(DecisionsContext);
  if (!decisions) {
    throw new Error('There are no decisions outside of a site.');
  }
  return decisions;
}
