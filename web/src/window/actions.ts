// What the find-anything box offers beside pages: views and actions.

import { useMutation } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { answer, api } from '../api/client.ts';
import { useDecisions } from '../decisions/context.ts';
import { useTheme } from './theme.ts';
import { useSite, useSiteStatus } from './useSite.ts';
import { VIEWS } from './views.ts';

export interface Action {
  name: string;
  /** What else people may call it. */
  also: string;
  hint: string;
  perform: () => void;
}

export function useReadings(site: number) {
  const read = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/readings', { params: { path: { site } } })),
  });
  const stop = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/readings/stop', { params: { path: { site } } })),
  });
  const goOn = useMutation({
    mutationFn: () => answer(api.POST('/api/sites/{site}/readings/go-on', { params: { path: { site } } })),
  });
  return { read, stop, goOn };
}

/** Answers a reading that did not find too much of the site. */
export function useLostPages(site: number, reading: number) {
  return useMutation({
    mutationFn: (takeOff: boolean) =>
      answer(
        api.POST('/api/sites/{site}/readings/{reading}/lost-pages', {
          params: { path: { site, reading } },
          body: { take_off: takeOff },
        }),
      ),
  });
}

/** Everything that can be done from anywhere. */
export function useActions(showKeys: () => void): Action[] {
  const site = useSite();
  const navigate = useNavigate();
  const { undo, redo } = useDecisions();
  const [theme, setTheme] = useTheme();
  const { read, stop, goOn } = useReadings(site);
  const status = useSiteStatus().data;
  const phase = status?.reading?.phase;
  const views = VIEWS.map((view) => ({
    name: view.name,
    also: view.also,
    hint: `G ${view.letter.toUpperCase()}`,
    perform: () => void navigate(`/${site}/${view.path}`),
  }));
  const actions: Action[] = [
    { name: 'Undo the latest decision', also: 'revert', hint: 'U', perform: undo },
    { name: 'Do it again', also: 'redo', hint: 'Shift U', perform: redo },
    {
      name: theme === 'dark' ? 'Switch to the light theme' : 'Switch to the dark theme',
      also: 'night day colours mode',
      hint: 'action',
      perform: () => setTheme(theme === 'dark' ? 'light' : 'dark'),
    },
    { name: 'Show all keys', also: 'help shortcuts keyboard', hint: '?', perform: showKeys },
    {
      name: 'Make a rule',
      also: 'new auto-linking phrase keyword',
      hint: 'action',
      perform: () => void navigate(`/${site}/rules/new`),
    },
    { name: 'Add a site', also: 'new folder', hint: 'action', perform: () => void navigate('/add') },
  ];
  if (status?.tray.links) {
    const open = () => window.dispatchEvent(new Event('strelm:tray'));
    actions.push({ name: 'Open the tray', also: 'review release', hint: 'action', perform: open });
  }
  if (phase === 'running' || phase === 'waiting') {
    actions.push({ name: 'Stop the reading', also: 'halt', hint: 'action', perform: () => stop.mutate() });
  } else {
    actions.push({ name: 'Read the site again', also: 'crawl refresh', hint: 'action', perform: () => read.mutate() });
  }
  if (phase === 'stopped' || phase === 'failed') {
    actions.push({ name: 'Go on with the reading', also: 'continue', hint: 'action', perform: () => goOn.mutate() });
  }
  return [...views, ...actions];
}
