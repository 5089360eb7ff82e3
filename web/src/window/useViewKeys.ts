// G and then a letter goes to a view.

import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { belongsElsewhere } from '../parts/keys.ts';
import { VIEWS } from './views.ts';

/** How long the letter may take, in milliseconds. */
const PATIENCE = 1500;

/** On the Desk G alone chooses another target: there it is Shift and G, which also works everywhere else. */
export function useViewKeys(site: number): void {
  const navigate = useNavigate();
  useEffect(() => {
    let until = 0;
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.repeat || belongsElsewhere(event)) {
        return;
      }
      const key = event.key.toLowerCase();
      const view = performance.now() < until ? VIEWS.find((one) => one.letter === key) : undefined;
      if (view) {
        until = 0;
        event.preventDefault();
        // No other key means anything meanwhile.
        event.stopImmediatePropagation();
        void navigate(`/${site}/${view.path}`);
        return;
      }
      const onDesk = /^\/\d+\/pages\/\d+/.test(window.location.pathname);
      until = key === 'g' && (event.shiftKey || !onDesk) ? performance.now() + PATIENCE : 0;
    };
    // Before the views' own keys.
    window.addEventListener('keydown', press, { capture: true });
    return () => window.removeEventListener('keydown', press, { capture: true });
  }, [site, navigate]);
}
