import { useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useEffect, useMemo, useState, useSyncExternalStore } from 'react';
import { answer, api, type Schema } from '../api/client.ts';
import { announce, say } from '../parts/notices.ts';
import { DecisionsContext } from './context.ts';
import { hand, newNumber } from './hand.ts';
import { type Ended, type Entry, Outbox, type What } from './outbox.ts';
import { NOTHING, notTaken, refused, told } from './words.ts';

/** One outbox for the window's site; views decide through it. */
export function DecisionsProvider({ site, children }: { site: number; children: ReactNode }) {
  const queries = useQueryClient();
  // Openings stay hidden from when their decision was sent until the new rows are there.
  const [settling, setSettling] = useState<readonly Entry[]>([]);
  const outbox = useMemo(() => {
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
      await queries.invalidateQueries({ queryKey: ['site', site] });
      setSettling((before) => before.filter((other) => other.key !== entry.key));
    };
    return new Outbox(site, (entry) => send(site, entry), ended);
  }, [site, queries]);
  useEffect(() => outbox.start(), [outbox]);
  const waiting = useSyncExternalStore(outbox.subscribe, outbox.entries);
  const decisions = useMemo(() => {
    const add = (entry: Omit<Entry, 'key'>) => outbox.add({ ...entry, key: newNumber() });
    return {
      decide: (what: What, words: string, hides: string[] = []) => add({ order: { do: 'decide', what }, words, hides }),
      undo: () => add({ order: { do: 'undo' }, words: '' }),
      redo: () => add({ order: { do: 'redo' }, words: '' }),
      nudge: () => outbox.nudge(),
    };
  }, [outbox]);
  const hidden = useMemo(
    () => new Set([...settling, ...waiting].flatMap((entry) => entry.hides ?? [])),
    [settling, waiting],
  );
  const value = useMemo(() => ({ ...decisions, waiting, hidden }), [decisions, waiting, hidden]);
  return <DecisionsContext value={value}>{children}</DecisionsContext>;
}

async function send(site: number, { key, order }: Entry): Promise<Schema['Decided'] | null> {
  const params = { path: { site } };
  switch (order.do) {
    case 'decide':
      return answer(api.POST('/api/sites/{site}/decisions', { params, body: { hand: hand(), key, what: order.what } }));
    case 'undo':
      return (
        (await answer(api.POST('/api/sites/{site}/undo', { params, body: { hand: hand(), key } }))).decided ?? null
      );
    case 'redo':
      return (
        (await answer(api.POST('/api/sites/{site}/redo', { params, body: { hand: hand(), key } }))).decided ?? null
      );
  }
}
