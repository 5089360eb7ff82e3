// A decision that waits for the server.

import type { Schema } from '../api/client.ts';

export type What = Schema['What'];

export interface Entry {
  key: string;
  order: { do: 'decide'; what: What } | { do: 'undo' } | { do: 'redo' };
  /** The words that it is about, to name it by. */
  words: string;
  /** What it hides from view until the new rows are there: pairs of pages as `source-target`, and the like. */
  hides?: string[];
}
