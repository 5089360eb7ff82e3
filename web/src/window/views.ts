// The views, by their groups, in their order in the bar.

export type Group = 'Work' | 'Find' | 'Shape' | 'Watch';

export interface View {
  path: string;
  name: string;
  /** The group in the bar; Setup stands by itself at its end. */
  group: Group | null;
  /** Goes there after G. */
  letter: string;
  /** What else people may look for. */
  also: string;
}

export const VIEWS: readonly View[] = [
  { path: 'today', name: 'Today', group: 'Work', letter: 't', also: 'start attention overview' },
  { path: 'pages', name: 'Pages', group: 'Work', letter: 'p', also: 'orphans unreachable broken table' },
  {
    path: 'phrases',
    name: 'Phrases',
    group: 'Find',
    letter: 'm',
    also: 'mentions words search sentences unlinked anchor text',
  },
  { path: 'anchors', name: 'Anchors', group: 'Find', letter: 'a', also: 'anchor texts words of links faults here alt' },
  {
    path: 'destinations',
    name: 'Destinations',
    group: 'Find',
    letter: 'd',
    also: 'outside external hosts partners affiliate nofollow sponsored mail',
  },
  {
    path: 'reach',
    name: 'Reach',
    group: 'Shape',
    letter: 'r',
    also: 'rescue depth chart soundings islands threads orphans unreachable',
  },
  { path: 'equity', name: 'Equity', group: 'Shape', letter: 'e', also: 'link equity share rank categories' },
  { path: 'flow', name: 'Flow', group: 'Shape', letter: 'f', also: 'categories matrix subjects silo' },
  { path: 'rules', name: 'Rules', group: 'Shape', letter: 'l', also: 'auto-linking phrases keywords automatic links' },
  { path: 'edge', name: 'Edge', group: 'Shape', letter: 'o', also: 'on the fly proxy footer links snippet render' },
  { path: 'history', name: 'History', group: 'Watch', letter: 'h', also: 'releases readings take back' },
  { path: 'setup', name: 'Setup', group: null, letter: 's', also: 'settings entry limits token delete' },
];

const GROUPS: readonly Group[] = ['Work', 'Find', 'Shape', 'Watch'];

/** Groups that have a view. */
export const SHOWN_GROUPS: readonly Group[] = GROUPS.filter((group) => viewsOf(group).length > 0);

export function viewsOf(group: Group): readonly View[] {
  return VIEWS.filter((view) => view.group === group);
}

/** The view that an address of the window shows: the part after the site. */
export function viewAt(pathname: string): View | undefined {
  const part = pathname.split('/')[2];
  return VIEWS.find((view) => view.path === part);
}
