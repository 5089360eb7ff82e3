import { describe, expect, it } from 'vitest';
import { BEGINNING, type Numbered, type Shown, settled, step, whereIs } from './deskState.ts';
import type { Opening } from './opening.ts';

function row(source: number, target: number): Numbered {
  return { opening: { source, target } as Opening, number: target };
}

const SHOWN: Shown = { in: [row(1, 9), row(2, 9), row(3, 9)], out: [row(9, 5), row(9, 6)] };

describe('what is chosen on the Desk', () => {
  it('begins where there is something', () => {
    expect(whereIs(BEGINNING, SHOWN)).toMatchObject({ side: 'in', at: 0 });
    expect(whereIs(BEGINNING, { in: [], out: SHOWN.out })).toMatchObject({ side: 'out', at: 0 });
    expect(whereIs(BEGINNING, { in: [], out: [] })).toEqual({ side: 'in', at: -1, current: undefined });
  });

  it('moves within its column and no further', () => {
    let state = step(BEGINNING, SHOWN, { do: 'choose', side: 'out', at: 0 });
    state = step(state, SHOWN, { do: 'move', by: 1 });
    expect(whereIs(state, SHOWN)).toMatchObject({ side: 'out', at: 1 });
    expect(whereIs(step(state, SHOWN, { do: 'move', by: 1 }), SHOWN).at).toBe(1);
    state = step(state, SHOWN, { do: 'move', by: -5 });
    expect(whereIs(state, SHOWN).at).toBe(0);
  });

  it('is the same opening when others come or go, and the next one when it goes itself', () => {
    const state = step(BEGINNING, SHOWN, { do: 'choose', side: 'in', at: 1 });
    const more: Shown = { ...SHOWN, in: [row(7, 9), ...SHOWN.in] };
    expect(whereIs(state, more)).toMatchObject({ at: 2, current: { opening: { source: 2 } } });
    const less: Shown = { ...SHOWN, in: [row(1, 9), row(3, 9)] };
    const next = whereIs(state, less);
    expect(next).toMatchObject({ at: 1, current: { opening: { source: 3 } } });
    // It holds on to what came into its place.
    const held = settled(state, next);
    expect(whereIs(held, { ...SHOWN, in: [row(7, 9), row(1, 9), row(3, 9)] }).current?.opening.source).toBe(3);
    expect(settled(held, whereIs(held, less))).toBe(held);
  });

  it('opens something under the opening that it is about, and closes it again', () => {
    const toggle = { do: 'toggle', opening: SHOWN.out[1]?.opening as Opening, under: 'words' } as const;
    const open = step(BEGINNING, SHOWN, toggle);
    expect(open.open).toEqual({ key: '9-6', under: 'words' });
    expect(whereIs(open, SHOWN)).toMatchObject({ side: 'out', at: 1 });
    expect(step(open, SHOWN, { ...toggle, under: 'pass' }).open?.under).toBe('pass');
    expect(step(open, SHOWN, toggle).open).toBeUndefined();
    expect(step(open, SHOWN, { do: 'move', by: 0 }).open).toBeUndefined();
    expect(step(open, SHOWN, { do: 'close' }).open).toBeUndefined();
  });
});
