import { describe, expect, it } from 'vitest';
import { readBounds, writeBounds } from './bounds.ts';
import { asTable, harmless } from './clipboard.ts';
import { type Column, columnsOf, orderAfter, usualColumns } from './column.ts';

const column = (key: string, isNumber: boolean, isUsual = true): Column<string> => ({
  ...{ key, name: key, meaning: '', width: 1, isNumber, isUsual },
});
const ALL = [column('title', false), column('words', true), column('away', true, false)];

describe('a table', () => {
  it('sorts figures from the largest and words from A at first, and turns around at the next press', () => {
    const order = { sort: 'title', descending: false };
    const byWords = orderAfter(order, ALL[1] as Column<string>);
    expect(byWords).toEqual({ sort: 'words', descending: true });
    expect(orderAfter(byWords, ALL[1] as Column<string>).descending).toBe(false);
    expect(orderAfter(byWords, ALL[0] as Column<string>)).toEqual({ sort: 'title', descending: false });
  });

  it('shows columns in its own order, and the usual ones where none is known', () => {
    expect(columnsOf(ALL, ['away', 'title', 'nothing'])).toEqual(['title', 'away']);
    expect(columnsOf(ALL, ['nothing'])).toEqual(usualColumns(ALL));
    expect(columnsOf(ALL, undefined)).toEqual(['title', 'words']);
  });

  it('keeps bounds as text', () => {
    const bounds = [
      { column: 'words', least: 0, most: null },
      { column: 'away', least: null, most: 7 },
    ];
    expect(readBounds(writeBounds(bounds), ALL)).toEqual(bounds);
    expect(readBounds('title:x..1,nothing:1..2,words', ALL)).toEqual([]);
  });

  it('copies cells that no spreadsheet runs and no program takes for markup', () => {
    for (const formula of ['=1+1', '+1+1', '@sum', '-cmd', '\u200b=1', '＝1']) {
      expect(harmless(formula), formula).toBe(`'${formula}`);
    }
    expect(['-3', '-3.5', '+ 1', 'a=1', 'Über'].map(harmless)).toEqual(['-3', '-3.5', "'+ 1", 'a=1', 'Über']);
    expect(asTable([['a\tb', '<b>']])).toEqual({
      plain: 'a b\t<b>',
      html: '<table><tr><td>a b</td><td>&lt;b&gt;</td></tr></table>',
    });
  });
});
