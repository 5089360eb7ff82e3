// The columns of Pages: what each is called, what it means, how wide it is, and how it sorts.

import type { paths } from '../../api/schema.d.ts';

type Query = NonNullable<paths['/api/sites/{site}/pages']['get']['parameters']['query']>;
export type SortBy = NonNullable<Query['sort']>;
export type Only = NonNullable<Query['only']>;

export interface Column {
  key: SortBy;
  name: string;
  /** Shown when pointing at the heading. */
  meaning: string;
  width: string;
  isNumber: boolean;
}

export const COLUMNS: Column[] = [
  { key: 'title', name: 'Title', meaning: 'The title without the name of the site', width: '22%', isNumber: false },
  { key: 'address', name: 'Address', meaning: 'Path of the page on the site', width: '20%', isNumber: false },
  {
    key: 'kind',
    name: 'Kind',
    meaning: 'Page, post, product, collection, term archive or file',
    width: '11%',
    isNumber: false,
  },
  { key: 'category', name: 'Category', meaning: 'The category that the page names', width: '12%', isNumber: false },
  { key: 'words', name: 'Words', meaning: 'Words in the content of the page', width: '6.5%', isNumber: true },
  {
    key: 'links_in',
    name: 'Links in',
    meaning: 'Other pages that link here from anywhere, menus included; what is in the tray counts',
    width: '7.5%',
    isNumber: true,
  },
  {
    key: 'links_out',
    name: 'Links out',
    meaning: 'Links in the content of the page to other pages of the site; what is in the tray counts',
    width: '7.5%',
    isNumber: true,
  },
  { key: 'links_away', name: 'Away', meaning: 'Links to other sites', width: '5.5%', isNumber: true },
  {
    key: 'depth',
    name: 'Depth',
    meaning: 'Clicks from the entry page; what is in the tray counts',
    width: '11%',
    isNumber: false,
  },
];
