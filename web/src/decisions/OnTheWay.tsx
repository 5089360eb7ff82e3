import { count } from '../parts/words.ts';
import { useDecisions } from './context.ts';
import type { Entry } from './entry.ts';

/** So many tries without a word from the server, and the editor is asked. */
const MANY = 5;

const ORDERS = { decide: 'The decision about', undo: 'Undoing', redo: 'Doing again' };

/** What was decided and is not with the server yet, and what keeps it. */
export function OnTheWay() {
  const { waiting, nudge, leaveOut } = useDecisions();
  const { entries, trouble, isVolatile } = waiting;
  const first = entries[0];
  if (!first) {
    return null;
  }
  return (
    <span className="flex flex-wrap items-center gap-x-2 gap-y-1" data-testid="on-the-way">
      <span className="font-semibold" role="status" title={trouble?.why}>
        {count(entries.length, 'decision')} on the way to the server{trouble && ', which does not take it yet'}
      </span>
      {isVolatile && (
        <span className="font-semibold text-accent">
          This browser keeps nothing (its storage is full or blocked): leave the window open until they are there
        </span>
      )}
      {trouble && (
        <button type="button" className="btn btn-xs" onClick={nudge}>
          Try now
        </button>
      )}
      {trouble?.isAnswered && trouble.tries >= MANY && (
        <>
          <span className="text-accent">
            {named(first)} was tried {trouble.tries} times: {trouble.why}
          </span>
          <button type="button" className="btn btn-xs" onClick={() => leaveOut(first.key)}>
            Give it up
          </button>
        </>
      )}
    </span>
  );
}

function named(entry: Entry): string {
  return entry.words === '' ? ORDERS[entry.order.do] : `${ORDERS[entry.order.do]} “${entry.words}”`;
}
