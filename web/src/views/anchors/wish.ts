// What Anchors shows, as it is kept in the address bar.

import { useSearchParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import type { Column, Order } from '../../table/column.ts';

export type Fault = Schema['FaultName'];
export type AnchorRow = Schema['AnchorShown'];
export type AnchorColumn = 'text' | 'links' | 'pages' | 'targets' | 'repeated' | 'faults';

/** How many words texts have. */
export type Length = 'any' | 'one' | 'many';

export interface Wish extends Order<AnchorColumn> {
  text: string;
  fault: Fault | null;
  length: Length;
}

/** Beyond so many words a text is long. */
export const LONG = 10;

export const LENGTHS: Record<Length, string> = {
  any: 'texts of any length',
  one: 'one word',
  many: `more than ${LONG} words`,
};

export const FAULTS: Record<Fault, string> = {
  empty: 'nothing to press',
  no_alt_text: 'picture without alt text',
  says_nothing: 'says nothing',
  is_address: 'an address',
  sentence: 'a whole sentence',
  long: `more than ${LONG} words`,
  several_targets: 'leads to several targets',
  only_text: 'all links to its target say it',
  many_texts: 'target has many names',
};

const words = { isNumber: false, isUsual: true };
const figure = { isNumber: true, isUsual: true };

export const COLUMNS: readonly Column<AnchorColumn>[] = [
  { key: 'text', name: 'Text', meaning: 'The words that carry links, as most write them', width: 26, ...words },
  { key: 'links', name: 'Links', meaning: 'Links in the content of pages', width: 6, ...figure },
  { key: 'pages', name: 'Pages', meaning: 'Pages on which these stand', width: 6, ...figure },
  { key: 'targets', name: 'Targets', meaning: 'Pages, places and addresses to which they lead', width: 7, ...figure },
  { key: 'repeated', name: 'Menus', meaning: 'Links in menus, headers and footers', width: 7, ...figure },
  {
    key: 'faults',
    name: 'What is wrong',
    meaning: 'The gravest fault; sorted by how many there are',
    width: 22,
    isNumber: false,
    isUsual: true,
    isTellingFromTop: true,
  },
];

export function useWish(): [Wish, (change: Partial<Wish>) => void] {
  const [search, setSearch] = useSearchParams();
  const wish = readWish(search);
  const set = (change: Partial<Wish>) => setSearch(writeWish({ ...wish, ...change }), { replace: true });
  return [wish, set];
}

/** The wish that an address holds; what it does not say, or says wrongly, is as usual. */
export function readWish(search: URLSearchParams): Wish {
  const fault = search.get('fault') as Fault | null;
  const length = search.get('length') as Length | null;
  const sort = COLUMNS.find((column) => column.key === search.get('sort'))?.key;
  return {
    text: search.get('text') ?? '',
    fault: fault && fault in FAULTS ? fault : null,
    length: length && length in LENGTHS ? length : 'any',
    sort: sort ?? 'links',
    descending: search.get('order') !== 'up',
  };
}

/** What {@link readWish} reads as the wish. */
export function writeWish(wish: Wish): URLSearchParams {
  const entries: [string, string, boolean][] = [
    ['text', wish.text, wish.text !== ''],
    ['fault', wish.fault ?? '', wish.fault !== null],
    ['length', wish.length, wish.length !== 'any'],
    ['sort', wish.sort, wish.sort !== 'links'],
    ['order', 'up', !wish.descending],
  ];
  return new URLSearchParams(entries.filter(([, , isSet]) => isSet).map(([key, value]) => [key, value]));
}

/** The part of a wish that the server has to know. */
export function queryOf(wish: Wish) {
  return {
    text: wish.text,
    sort: wish.sort,
    descending: wish.descending,
    ...(wish.fault ? { fault: wish.fault } : {}),
    ...(wish.length === 'one' ? { least_words: 1, most_words: 1 } : {}),
    ...(wish.length === 'many' ? { least_words: LONG + 1 } : {}),
  };
}
