import { describe, expect, it } from 'vitest';
import { asSeen, inSeenOrder, keyOf, NOTHING_SEEN, type Opening, withSeen } from './opening.ts';

function opening(source: number, target: number, fit: number): Opening {
  return { source, target, fit, parts: [{ part: 'words', strength: fit / 100 }] } as unknown as Opening;
}

describe('fits that an editor has seen', () => {
  const first = [opening(1, 9, 80), opening(2, 9, 60), opening(3, 9, 40)];
  const seen = withSeen(NOTHING_SEEN, first, [opening(9, 5, 70)]);

  it('stay while the page is open, whatever they become', () => {
    const later = withSeen(seen, [opening(2, 9, 30)], [opening(9, 5, 90)]);
    expect(later).toBe(seen);
    expect(asSeen(later, opening(2, 9, 30))).toMatchObject({ fit: 60, parts: [{ strength: 0.6 }] });
    expect(asSeen(later, opening(9, 5, 90)).fit).toBe(70);
  });

  it('keep openings in their order', () => {
    const fallen = [opening(3, 9, 75), opening(1, 9, 20), opening(2, 9, 10)];
    expect(inSeenOrder(seen, fallen).map(keyOf)).toEqual(['1-9', '2-9', '3-9']);
  });

  it('let what is new come in by its fit', () => {
    const more = withSeen(seen, [...first, opening(4, 9, 65), opening(5, 9, 5)], []);
    expect(more.order).toEqual(['1-9', '4-9', '2-9', '3-9', '5-9']);
  });

  it('are there again when what was taken comes back', () => {
    const without = withSeen(seen, first.slice(1), []);
    const back = withSeen(without, [opening(1, 9, 50), ...first.slice(1)], []);
    expect(inSeenOrder(back, [...first.slice(1), opening(1, 9, 50)]).map(keyOf)).toEqual(['1-9', '2-9', '3-9']);
    expect(asSeen(back, opening(1, 9, 50)).fit).toBe(80);
  });
});
