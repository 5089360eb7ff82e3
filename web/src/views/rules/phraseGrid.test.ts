import { describe, expect, it } from 'vitest';
import { fillDown, gridOf, type Proposed, put, rulesOfGrid } from './phraseGrid.ts';

const page = (number: number) => ({ number }) as Proposed['page'];
const phrase = (text: string, more: Partial<Proposed['phrases'][number]> = {}) => ({
  text,
  from: 'its title',
  pages: 3,
  rival: null,
  rule: null,
  is_guess: false,
  ...more,
});

describe('a grid of phrases', () => {
  const pages: Proposed[] = [
    {
      page: page(1),
      rules: [],
      phrases: [
        phrase('a'),
        phrase('b', { pages: 0 }),
        phrase('c', { rule: 4 }),
        phrase('x', { is_guess: true }),
        phrase('d'),
      ],
    },
    { page: page(2), rules: [], phrases: [phrase('e', { rival: page(9) })] },
  ];

  it('begins with what can be linked and is nobody else’s', () => {
    expect(gridOf(pages)).toEqual([
      ['a', 'd', '', '', ''],
      ['', '', '', '', ''],
    ]);
  });

  it('takes a piece of a spreadsheet from a cell on, as far as it has cells', () => {
    const pasted = put(gridOf(pages), 0, 3, 'x\ty\tz\r\nv\n');
    expect(pasted).toEqual([
      ['a', 'd', '', 'x', 'y'],
      ['', '', '', 'v', ''],
    ]);
    expect(put(pasted, 1, 0, '')[1]).toEqual(['', '', '', 'v', '']);
    expect(fillDown(pasted, 1, 0)[1]).toEqual(['a', '', '', 'v', '']);
    expect(fillDown(pasted, 0, 0)).toEqual(pasted);
  });

  it('makes a rule for each page with phrases, each phrase once', () => {
    const grid = put(gridOf(pages), 0, 2, ' a ');
    expect(rulesOfGrid(grid, pages)).toEqual([{ phrases: ['a', 'd'], target: 1 }]);
  });
});
