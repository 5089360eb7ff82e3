import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { ProblemError, Unsettled } from '../api/client.ts';
import type { Entry } from './entry.ts';
import { type Ended, Outbox } from './outbox.ts';

const entry = (key: string): Entry => ({ key, order: { do: 'undo' }, words: key });

describe('the outbox', () => {
  let sent: string[];
  let ended: Ended[];
  let answer: (key: string) => Promise<null>;
  let boxes: (() => void)[];

  const open = (site = 1) => {
    const send = ({ key }: Entry) => {
      sent.push(key);
      return answer(key);
    };
    const box = new Outbox(site, send, async (one) => void ended.push(one));
    boxes.push(box.start());
    return box;
  };

  beforeEach(() => {
    vi.useFakeTimers();
    window.localStorage.clear();
    [sent, ended, boxes] = [[], [], []];
    answer = async () => null;
  });

  afterEach(() => {
    for (const close of boxes) {
      close();
    }
    vi.useRealTimers();
  });

  it('sends one after the other, in their order, each once', async () => {
    let underWay = 0;
    answer = async () => {
      underWay += 1;
      expect(underWay).toBe(1);
      await new Promise((done) => setTimeout(done, 10));
      underWay -= 1;
      return null;
    };
    const box = open();
    for (const key of ['a', 'b', 'c']) {
      box.add(entry(key));
    }
    expect(box.waiting().entries.map(({ key }) => key)).toEqual(['a', 'b', 'c']);
    await vi.advanceTimersByTimeAsync(100);
    expect(sent).toEqual(['a', 'b', 'c']);
    expect(ended.map((one) => one.entry.key)).toEqual(['a', 'b', 'c']);
    expect(box.waiting()).toEqual({ entries: [], trouble: null, isVolatile: false });
  });

  it('sends again with the same key when it is not known what became of it, waiting longer each time', async () => {
    answer = async () => {
      throw new Unsettled('No connection.', null);
    };
    const box = open();
    box.add(entry('a'));
    await vi.advanceTimersByTimeAsync(0);
    expect(box.waiting().trouble).toMatchObject({ why: 'No connection.', tries: 1, isAnswered: false });
    box.add(entry('b'));
    await vi.advanceTimersByTimeAsync(20_000);
    const tries = sent.length;
    expect(tries).toBeGreaterThan(4);
    expect(tries).toBeLessThan(12);
    expect(new Set(sent), 'what comes later waits for what came first').toEqual(new Set(['a']));
    answer = async () => null;
    box.nudge();
    await vi.advanceTimersByTimeAsync(0);
    expect(ended.map((one) => [one.entry.key, one.late])).toEqual([
      ['a', true],
      ['b', false],
    ]);
    expect(box.waiting().trouble).toBeNull();
  });

  it('ends what is refused and goes on', async () => {
    answer = async (key) => {
      if (key === 'a') {
        throw new ProblemError('It is taken already.');
      }
      return null;
    };
    const box = open();
    box.add(entry('a'));
    box.add(entry('b'));
    await vi.advanceTimersByTimeAsync(0);
    expect(ended.map((one) => one.result)).toEqual([{ refusal: 'It is taken already.' }, { decided: null }]);
    expect(box.waiting().entries).toEqual([]);
  });

  it('keeps what waits when the window goes, for the next one of the same site', async () => {
    answer = async () => {
      throw new Unsettled('No connection.', null);
    };
    const box = open();
    box.add(entry('a'));
    await vi.advanceTimersByTimeAsync(0);
    boxes.pop()?.();
    sent = [];
    answer = async () => null;
    open(2);
    await vi.advanceTimersByTimeAsync(1000);
    expect(sent).toEqual([]);
    const again = open();
    await vi.advanceTimersByTimeAsync(0);
    expect(sent).toEqual(['a']);
    expect(again.waiting().entries).toEqual([]);
  });

  it('gives up what an editor leaves out', async () => {
    answer = async () => {
      throw new Unsettled('No.', 503);
    };
    const box = open();
    box.add(entry('a'));
    box.add(entry('b'));
    await vi.advanceTimersByTimeAsync(0);
    expect(box.waiting().trouble?.isAnswered).toBe(true);
    answer = async () => null;
    box.leaveOut('a');
    await vi.advanceTimersByTimeAsync(0);
    expect(sent).toEqual(['a', 'b']);
  });
});
