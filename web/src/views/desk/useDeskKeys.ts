// The Desk by keyboard.

import { useEffect } from 'react';

export interface DeskKeys {
  next: () => void;
  previous: () => void;
  take: () => void;
  pass: () => void;
  undo: () => void;
  toIn: () => void;
  toOut: () => void;
}

export function useDeskKeys(keys: DeskKeys): void {
  useEffect(() => {
    const actions: Record<string, () => void> = {
      j: keys.next,
      k: keys.previous,
      t: keys.take,
      p: keys.pass,
      u: keys.undo,
      i: keys.toIn,
      o: keys.toOut,
    };
    const press = (event: KeyboardEvent) => {
      const isTyping = event.target instanceof HTMLElement && event.target.matches('input, textarea, select');
      if (isTyping || event.ctrlKey || event.metaKey || event.altKey || event.repeat) {
        return;
      }
      const action = actions[event.key.toLowerCase()];
      if (action) {
        event.preventDefault();
        action();
      }
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  });
}
