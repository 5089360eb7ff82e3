import { describe, expect, it } from 'vitest';
import type { Schema } from '../api/client.ts';
import type { Entry } from './entry.ts';
import { notTaken, refused, told } from './words.ts';

const KINDS: Schema['DecisionKind'][] = ['take', 'drop', 'pass', 'bring_back', 'repair'];
const entry = (order: Entry['order']): Entry => ({ key: 'a', order, words: 'red torch' });
const decided = (kind: Schema['DecisionKind'], words: string) => ({ kind, words }) as Schema['Decided'];

describe('a decision in words', () => {
  it('says what is so now, of one link and of many', () => {
    const take = { do: 'decide', what: { kind: 'drop', links: [] } } as unknown as Entry['order'];
    expect(told(entry(take), decided('take', 'red torch'))).toBe('Taken: “red torch” is in the tray.');
    expect(told(entry(take), decided('take', '1200 links'))).toBe('Taken: 1,200 links are in the tray.');
    expect(told(entry({ do: 'undo' }), decided('take', '3 links'))).toBe('Undone: 3 links are out of the tray again.');
    expect(told(entry({ do: 'redo' }), decided('pass', 'moon'))).toBe('Done again: “moon” is set aside.');
  });

  it('is there for every kind, and undone it says something else than done again', () => {
    const orders: Entry['order'][] = [{ do: 'undo' }, { do: 'redo' }];
    for (const kind of KINDS) {
      const [undone, again] = orders.map((order) => told(entry(order), decided(kind, 'moon')));
      expect(undone).toMatch(/^Undone: .*\.$/);
      expect(again).toMatch(/^Done again: .*\.$/);
      expect(undone?.split(': ')[1]).not.toBe(again?.split(': ')[1]);
    }
  });

  it('names itself when it is refused late, and only then', () => {
    const pass = { do: 'decide', what: { kind: 'pass' } } as unknown as Entry['order'];
    expect(refused(entry(pass), 'The page has changed.', false)).toBe('The page has changed.');
    expect(refused(entry(pass), 'The page has changed.', true)).toBe(
      '“red torch” was not passed. The page has changed.',
    );
    expect(refused(entry({ do: 'undo' }), 'Too late.', true)).toBe('Too late.');
  });

  it('says how many of many could not be taken, and why the first could not', () => {
    const lost = [
      { words: 'moon', why: 'the sentence has changed' },
      { words: 'sun', why: 'it is linked' },
    ] as Schema['Refused'][];
    expect(notTaken(lost)).toBe('2 links could not be taken; “moon”: the sentence has changed');
    expect(notTaken(lost.slice(1))).toBe('1 link could not be taken; “sun”: it is linked');
    expect(notTaken([])).toBe('');
  });
});
