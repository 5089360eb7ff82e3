import { describe, expect, it } from 'vitest';
import { type Bounds, boundsInWords, readBounds, writeBounds } from './bounds.ts';
import type { Column } from './column.ts';

type Key = 'words' | 'links_in';

const column = (key: Key, name: string): Column<Key> => ({
  key,
  name,
  meaning: '',
  width: 5,
  isNumber: true,
  isUsual: true,
});
const COLUMNS = [column('words', 'Words'), column('links_in', 'Links in')];

describe('figures within bounds', () => {
  it('stand in an address and are read from it as they were', () => {
    const figures = [null, 0, 7, 1_000_000];
    for (const least of figures) {
      for (const most of figures) {
        const bounds: Bounds<Key>[] = [
          { column: 'words', least, most },
          { column: 'links_in', least: most, most: least },
        ];
        expect(readBounds(writeBounds(bounds), COLUMNS)).toEqual(bounds);
      }
    }
    expect(readBounds(writeBounds([]), COLUMNS)).toEqual([]);
  });

  it('leaves out what is not understood and keeps the rest', () => {
    const text = 'words:1..2,depth:0..1,words:x..2,links_in:3..,words,links_in:..';
    expect(readBounds(text, COLUMNS)).toEqual([
      { column: 'words', least: 1, most: 2 },
      { column: 'links_in', least: 3, most: null },
      { column: 'links_in', least: null, most: null },
    ]);
  });

  it('are said in words', () => {
    const said = (least: number | null, most: number | null) =>
      boundsInWords({ column: 'links_in', least, most }, COLUMNS);
    expect([said(1, 3), said(2, 2), said(4, null), said(null, 5)]).toEqual([
      'links in from 1 to 3',
      'links in = 2',
      'links in at least 4',
      'links in at most 5',
    ]);
  });
});
