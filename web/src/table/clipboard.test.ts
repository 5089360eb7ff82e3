import { describe, expect, it } from 'vitest';
import { asTable, harmless } from './clipboard.ts';

describe('cells for the clipboard', () => {
  it('are no formulas, whatever a page calls itself', () => {
    for (const text of ['=1+1', '+1', '-cmd', '@sum', ' =1', '\u00a0=1', '＝1', '\u200b=1', '\t=1']) {
      expect(harmless(text).startsWith("'"), JSON.stringify(text)).toBe(true);
    }
    for (const text of ['moon', '1 + 1', '-12', '-0.5', '', 'a=b', '“=”', '…', '½']) {
      expect(harmless(text)).toBe(text);
    }
  });

  it('keep to their rows and columns', () => {
    const { plain, html } = asTable([
      ['Title', 'Words'],
      ['One\tand\r\ntwo', '12'],
      ['<b>&</b>', '=x'],
    ]);
    expect(plain.split('\n').map((row) => row.split('\t'))).toEqual([
      ['Title', 'Words'],
      ['One and two', '12'],
      ['<b>&</b>', "'=x"],
    ]);
    const table = document.createElement('div');
    table.innerHTML = html;
    expect(table.querySelectorAll('tr').length).toBe(3);
    expect([...table.querySelectorAll('td')].map((cell) => cell.textContent)).toEqual([
      'Title',
      'Words',
      'One and two',
      '12',
      '<b>&</b>',
      "'=x",
    ]);
    expect(table.querySelector('b')).toBeNull();
  });
});
