import { createContext, use } from 'react';
import type { Entry, What } from './outbox.ts';

export interface Decisions {
  /** Sends a decision on its way. `words` name it; `pair` is the opening that it hides. */
  decide: (what: What, words: string, pair?: string) => void;
  undo: () => void;
  redo: () => void;
  /** Tries at once to send what waits. */
  nudge: () => void;
  /** What is not with the server yet. */
  waiting: readonly Entry[];
  /** Pairs of pages whose openings are decided on but may still be offered. */
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
