// The columns of Pages.

import type { paths } from '../../api/schema.d.ts';
import type { Column } from '../../table/column.ts';

export type Query = NonNullable<paths['/api/sites/{site}/pages']['get']['parameters']['query']>;
export type ColumnKey = NonNullable<Query['sort']>;
export type Only = NonNullable<Query['only']>;
export type Kind = NonNullable<Query['kind']>;

export type PageColumn = Column<ColumnKey>;

export const COLUMNS: PageColumn[] = [
  {
    key: 'title',
    name: 'Title',
    meaning: 'The title without the name of the site',
    width: 22,
    isNumber: false,
    isUsual: true,
  },
  {
    key: 'address',
    name: 'Address',
    meaning: 'Path of the page on the site',
    width: 20,
    isNumber: false,
    isUsual: true,
  },
  {
    key: 'kind',
    name: 'Kind',
    meaning: 'Page, post, product, collection, term archive or file',
    width: 10,
    isNumber: false,
    isUsual: false,
  },
  {
    key: 'category',
    name: 'Category',
    meaning: 'The category that the page names',
    width: 11,
    isNumber: false,
    isUsual: true,
  },
  { key: 'words', name: 'Words', meaning: 'Words in the content of the page', width: 7, isNumber: true, isUsual: true },
  {
    key: 'links_in',
    name: 'Links in',
    meaning: 'Other pages that link here from anywhere, menus included; what is planned counts',
    width: 8,
    isNumber: true,
    isUsual: true,
  },
  {
    key: 'content_links_in',
    name: 'From text',
    meaning: 'Other pages that link here from their content; what is planned counts',
    width: 8.5,
    isNumber: true,
    isUsual: false,
  },
  {
    key: 'links_out',
    name: 'Links out',
    meaning: 'Links in the content of the page to other pages of the site; what is planned counts',
    width: 8,
    isNumber: true,
    isUsual: true,
  },
  { key: 'links_away', name: 'Away', meaning: 'Links to other sites', width: 6, isNumber: true, isUsual: false },
  {
    key: 'broken',
    name: 'Broken',
    meaning: 'Links on the page that lead nowhere, or to a place that is not there',
    width: 7,
    isNumber: true,
    isUsual: false,
  },
  {
    key: 'openings_in',
    name: 'Open in',
    meaning: 'Openings: likely places on other pages for a link to this page',
    width: 7.5,
    isNumber: true,
    isUsual: true,
  },
  {
    key: 'best_in',
    name: 'Best in',
    meaning: 'The best fit among the openings that lead here, 0 to 100',
    width: 7,
    isNumber: true,
    isUsual: true,
  },
  {
    key: 'openings_out',
    name: 'Open out',
    meaning: 'Openings: likely places in the text of this page for a link to another page',
    width: 8,
    isNumber: true,
    isUsual: true,
  },
  {
    key: 'best_out',
    name: 'Best out',
    meaning: 'The best fit among the openings in its text, 0 to 100',
    width: 7.5,
    isNumber: true,
    isUsual: false,
  },
  {
    key: 'equity',
    name: 'Equity',
    meaning: 'Link equity beside the average page, which is 1; as the site stands',
    width: 7,
    isNumber: true,
    isUsual: false,
  },
  {
    key: 'attention',
    name: 'Attention',
    meaning: 'Where an hour pays most: pages that lack links and have good openings for them, 0 to 100',
    width: 8.5,
    isNumber: true,
    isUsual: true,
  },
  {
    key: 'depth',
    name: 'Depth',
    meaning: 'Clicks from the entry page; what is planned counts',
    width: 11,
    isNumber: false,
    isUsual: true,
    isTellingFromTop: true,
  },
];

/** Columns whose figures can be bounded. */
export const FIGURES = COLUMNS.filter(
  (column) => (column.isNumber && column.key !== 'attention' && column.key !== 'equity') || column.key === 'depth',
);

export function columnOf(key: string): PageColumn | undefined {
  return COLUMNS.find((column) => column.key === key);
}
