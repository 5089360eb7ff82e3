// The views, in their order in the bar.

export interface View {
  path: string;
  name: string;
  /** What else people may look for. */
  also: string;
}

export const VIEWS: View[] = [
  { path: 'today', name: 'Today', also: 'start attention overview' },
  { path: 'pages', name: 'Pages', also: 'orphans unreachable broken table' },
  { path: 'history', name: 'History', also: 'releases readings take back' },
  { path: 'setup', name: 'Setup', also: 'settings entry limits token delete' },
];
