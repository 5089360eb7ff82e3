// What Destinations shows, as it is kept in the address bar.

import { useSearchParams } from 'react-router';
import type { Schema } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import type { Column, Order } from '../../table/column.ts';

export type DestinationRow = Schema['DestinationRow'];
export type DestinationColumn = Exclude<keyof DestinationRow, 'repeated' | 'ugc'>;

export interface Wish extends Order<DestinationColumn> {
  text: string;
  /** The addresses of one host; or all of them. */
  host: string | null;
  addresses: boolean;
}

const figure = { isNumber: true, isUsual: true };

const COLUMNS: readonly Column<DestinationColumn>[] = [
  {
    key: 'name',
    name: 'Where',
    meaning: 'A host, mail or phone; or an address',
    width: 30,
    isNumber: false,
    isUsual: true,
  },
  { key: 'addresses', name: 'Addresses', meaning: 'Different addresses of the host', width: 8, ...figure },
  { key: 'links', name: 'Links', meaning: 'Links in the content of pages', width: 6, ...figure },
  { key: 'pages', name: 'Pages', meaning: 'Pages on which these stand', width: 6, ...figure },
  { key: 'nofollow', name: 'nofollow', meaning: 'Links that search engines are not to follow', width: 7, ...figure },
  { key: 'sponsored', name: 'sponsored', meaning: 'Links that are paid for', width: 8, ...figure },
  { key: 'new_tab', name: 'New tab', meaning: 'Links that open in a new tab', width: 7, ...figure },
];

const KEYS: readonly string[] = COLUMNS.map((column) => column.key);

/** Addresses have no addresses. */
export function columnsFor(wish: Wish): readonly Column<DestinationColumn>[] {
  return isOfHosts(wish) ? COLUMNS : COLUMNS.filter((column) => column.key !== 'addresses');
}

export function isOfHosts(wish: Wish): boolean {
  return wish.host === null && !wish.addresses;
}

export function useWish(): [Wish, (change: Partial<Wish>) => void] {
  const [search, setSearch] = useSearchParams();
  const wish = readWish(search);
  // A host that is opened can be left again by going back.
  const set = (change: Partial<Wish>) =>
    setSearch(writeWish({ ...wish, ...change }), { replace: !('host' in change || 'addresses' in change) });
  return [wish, set];
}

/** The wish that an address holds; what it does not say, or says wrongly, is as usual. */
export function readWish(search: URLSearchParams): Wish {
  const sort = search.get('sort') ?? '';
  return {
    text: search.get('text') ?? '',
    host: search.get('host') || null,
    addresses: search.has('addresses'),
    sort: KEYS.includes(sort) ? (sort as DestinationColumn) : 'links',
    descending: search.get('order') !== 'up',
  };
}

/** What {@link readWish} reads as the wish. */
export function writeWish(wish: Wish): URLSearchParams {
  const entries: [string, string, boolean][] = [
    ['text', wish.text, wish.text !== ''],
    ['host', wish.host ?? '', wish.host !== null],
    ['addresses', '', wish.addresses],
    ['sort', wish.sort, wish.sort !== 'links'],
    ['order', 'up', !wish.descending],
  ];
  return new URLSearchParams(entries.filter(([, , isSet]) => isSet).map(([key, value]) => [key, value]));
}

/** The part of a wish that the server has to know. */
export function queryOf(wish: Wish) {
  const { text, host, addresses, sort, descending } = wish;
  return { text, sort, descending, ...(host ? { host } : {}), ...(addresses ? { addresses } : {}) };
}

const SCHEMES: Record<string, string> = { 'mailto:': 'mail', 'tel:': 'phone', 'sms:': 'text messages' };

/** What a host or an address is called. */
export function nameOf(row: Pick<DestinationRow, 'name'>): string {
  return SCHEMES[row.name] ?? row.name;
}

/** So many of what is shown, in words. */
export function counted(rows: number, wish: Wish): string {
  return isOfHosts(wish) ? count(rows, 'host') : count(rows, 'address', 'addresses');
}

/** What all of some addresses begin with; of hosts nothing is known. */
export function beginningOf(names: readonly string[]): string {
  const [first = '', ...others] = names;
  let length = first.length;
  for (const other of others) {
    while (!other.startsWith(first.slice(0, length))) {
      length -= 1;
    }
  }
  return first.slice(0, length);
}
