// The rows of the table of rules: columns, filter and order.

import type { Column, Order } from '../../table/column.ts';
import { phrasesOf, where } from './ruleDraft.ts';
import type { RuleRow } from './useRules.ts';

export type RuleColumn = 'phrases' | 'leads' | 'where' | 'pages' | 'wanted' | 'there' | 'held' | 'state';

const words = { isNumber: false, isUsual: true };
const figure = { isNumber: true, isUsual: true };

export const COLUMNS: readonly Column<RuleColumn>[] = [
  { key: 'phrases', name: 'Phrases', meaning: 'The words that are linked', width: 24, ...words },
  { key: 'leads', name: 'Leads to', meaning: 'The page or address to which they lead', width: 22, ...words },
  { key: 'where', name: 'Where', meaning: 'What is special about where it links', width: 18, ...words },
  { key: 'pages', name: 'Pages', meaning: 'Pages on which its words stand', width: 7, ...figure },
  { key: 'wanted', name: 'Would link', meaning: 'Places that it would link', width: 9, ...figure },
  {
    key: 'there',
    name: 'Linked',
    meaning: 'Places that carry its link, those in the tray included',
    width: 7,
    ...figure,
  },
  { key: 'held', name: 'Held back', meaning: 'Places that something holds back', width: 9, ...figure },
  { key: 'state', name: 'State', meaning: 'Whether it makes links', width: 7, ...words },
];

/** What a cell shows. Figures that are not known have none. */
export function textOf(row: RuleRow, column: RuleColumn): string {
  const value = figureOrWords(row, column);
  return value === undefined ? '' : typeof value === 'number' ? value.toLocaleString('en') : value;
}

function figureOrWords(row: RuleRow, column: RuleColumn): string | number | undefined {
  switch (column) {
    case 'phrases':
      return phrasesOf(row.rule);
    case 'leads':
      return row.leads.text;
    case 'where':
      return where(row.rule);
    case 'state':
      return row.rule.is_on ? 'on' : 'off';
    case 'there':
      return row.counts ? row.counts.there + row.counts.planned : undefined;
    default:
      return row.counts?.[column];
  }
}

/** The rows that hold a text in a phrase or in where they lead, in order. */
export function rowsOf(rules: readonly RuleRow[], text: string, order: Order<RuleColumn>): RuleRow[] {
  const wanted = text.trim().toLowerCase();
  const holds = (row: RuleRow) =>
    [...row.rule.phrases, row.leads.text, row.leads.page?.path ?? ''].some((one) => one.toLowerCase().includes(wanted));
  const direction = order.descending ? -1 : 1;
  return rules
    .filter((row) => wanted === '' || holds(row))
    .sort(
      (one, other) =>
        direction * compared(figureOrWords(one, order.sort), figureOrWords(other, order.sort)) ||
        one.number - other.number,
    );
}

/** What is not known comes last from the top. */
function compared(one: string | number | undefined, other: string | number | undefined): number {
  if (typeof one === 'string' && typeof other === 'string') {
    return one.localeCompare(other, 'en');
  }
  return Number(one ?? -1) - Number(other ?? -1);
}
