import { useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import { answer, api, type Schema, Unsettled } from '../api/client.ts';
import { type Asked, type Kind, refresh, withAsked } from '../api/stale.ts';
import { announce, say } from '../parts/notices.ts';
import { DecisionsContext } from './context.ts';
import type { Entry, What } from './entry.ts';
import { hand, newNumber } from './hand.ts';
import { type Ended, Outbox } from './outbox.ts';
import { NOTHING, notTaken, refused, told } from './words.ts';

/** One outbox for the window's site; views decide through it. */
export function DecisionsProvider({ site, children }: { site: number; children: ReactNode }) {
  const queries = useQueryClient();
  // Openings stay hidden from when their decision was sent until the new rows are there.
  const [settling, setSettling] = useState<readonly Entry[]>([]);
  const asked = useRef<Asked>(new Map());
  const outbox = useMemo(() => {
    asked.current = new Map();
    const ended = async ({ entry, result, late }: Ended) => {
      if ('refusal' in result) {
        say({ text: refused(entry, result.refusal, late), isError: true });
      } else {
        const text = result.decided ? told(entry, result.decided) : NOTHING[entry.order.do];
        const lost = result.decided?.refused ?? [];
        if (lost.length > 0) {
          say({ text: `${text} ${notTaken(lost)}`, isError: true });
        } else if (entry.order.do === 'decide') {
          announce(text);
        } else {
          say({ text });
        }
      }
      setSettling((before) => [...before, entry]);
      const changed = changesOf(entry);
      if ('decided' in result && result.decided) {
        asked.current = withAsked(asked.current, changed, result.decided.seq);
      }
      await refresh(queries, site, changed);
      setSettling((before) => before.filter((other) => other.key !== entry.key));
    };
    return new Outbox(site, (entry) => send(site, entry), ended);
  }, [site, queries]);
  useEffect(() => outbox.start(), [outbox]);
  const waiting = useSyncExternalStore(outbox.subscribe, outbox.waiting);
  const decisions = useMemo(() => {
    const add = (entry: Omit<Entry, 'key'>) => outbox.add({ ...entry, key: newNumber() });
    return {
      decide: (what: What, words: string, hides: string[] = []) => add({ order: { do: 'decide', what }, words, hides }),
      undo: () => add({ order: { do: 'undo' }, words: '' }),
      redo: () => add({ order: { do: 'redo' }, words: '' }),
      nudge: () => outbox.nudge(),
      leaveOut: (key: string) => outbox.leaveOut(key),
      asked: () => asked.current,
    };
  }, [outbox]);
  const hidden = useMemo(
    () => new Set([...settling, ...waiting.entries].flatMap((entry) => entry.hides ?? [])),
    [settling, waiting],
  );
  const value = useMemo(() => ({ ...decisions, waiting, hidden }), [decisions, waiting, hidden]);
  return <DecisionsContext value={value}>{children}</DecisionsContext>;
}

/** What a decision can have changed. */
function changesOf({ order }: Entry): ReadonlySet<Kind> {
  if (order.do !== 'decide') {
    return new Set(['taken', 'passed']);
  }
  return new Set([order.what.kind === 'pass' || order.what.kind === 'bring_back' ? 'passed' : 'taken']);
}

/** A server that does not answer in this time, in milliseconds, is asked again. */
const PATIENCE = 60_000;

async function send(site: number, { key, order }: Entry): Promise<Schema['Decided'] | null> {
  const params = { path: { site } };
  const signal = AbortSignal.timeout(PATIENCE);
  if (order.do === 'decide') {
    const body = { hand: hand(), key, what: order.what };
    const decided = await answer(api.POST('/api/sites/{site}/decisions', { params, body, signal }));
    return whole(decided);
  }
  const path = order.do === 'undo' ? '/api/sites/{site}/undo' : '/api/sites/{site}/redo';
  const turned = await answer(api.POST(path, { params, body: { hand: hand(), key }, signal }));
  return turned.decided ? whole(turned.decided) : null;
}

/** What stands between us and the server may answer with something else. */
function whole(decided: Schema['Decided']): Schema['Decided'] {
  if (typeof decided?.kind !== 'string') {
    throw new Unsettled('What answered was not Strelm’s server. Try again in a moment.', 200);
  }
  return decided;
}
