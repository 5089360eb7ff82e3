import { describe, expect, it } from 'vitest';
import { rowsOf, textOf } from './ruleRows.ts';
import type { RuleRow } from './useRules.ts';

const rule = (number: number, phrases: string[], text: string, wanted?: number): RuleRow => ({
  number,
  rule: { phrases, target: number, is_on: wanted !== undefined },
  leads: { page: null, text },
  made: 0,
  named_pages: [],
  outdated: 0,
  counts: wanted === undefined ? null : { pages: wanted, wanted, planned: 1, there: 2, held: 0 },
});

const RULES = [
  rule(1, ['seeing'], 'Seeing', 3),
  rule(2, ['red torch', 'red light'], 'Torches', 12),
  rule(3, ['collimation'], 'Collimating a mirror'),
];

describe('rows of rules', () => {
  it('are found by any phrase and by where they lead', () => {
    const found = (text: string) =>
      rowsOf(RULES, text, { sort: 'phrases', descending: false }).map((row) => row.number);
    expect(found(' LIGHT ')).toEqual([2]);
    expect(found('mirror')).toEqual([3]);
    expect(found('')).toEqual([3, 2, 1]);
    expect(found('nothing')).toEqual([]);
  });

  it('are sorted by figures, those that are not known last', () => {
    const rows = rowsOf(RULES, '', { sort: 'wanted', descending: true });
    expect(rows.map((row) => row.number)).toEqual([2, 1, 3]);
  });

  it('show what is in the tray as linked, and nothing where nothing is known', () => {
    expect(textOf(RULES[0] as RuleRow, 'there')).toBe('3');
    expect(textOf(RULES[2] as RuleRow, 'there')).toBe('');
    expect(textOf(RULES[2] as RuleRow, 'state')).toBe('off');
  });
});
