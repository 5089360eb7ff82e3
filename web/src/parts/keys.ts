// Keys that act on the whole window or on a view.

import { useEffect } from 'react';

/** Whether keys belong to a field or to an open dialog. */
export function belongsElsewhere(event: KeyboardEvent): boolean {
  const target = event.target;
  const isTyping = target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]');
  return isTyping || document.querySelector('dialog[open]') !== null;
}

/**
 * Acts when one of some keys is pressed, unless somebody is typing. Keys are named as `KeyboardEvent.key` does, with
 * `shift+` before them where that counts.
 */
export function useKeys(keys: Record<string, () => void>): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (belongsElsewhere(event) || event.ctrlKey || event.metaKey || event.altKey || event.repeat) {
        return;
      }
      const name = event.key.toLowerCase();
      // A key that is only there with Shift, such as ?, is named by itself.
      const isLetter = /^[a-z]$/.test(name);
      const action = keys[event.shiftKey && isLetter ? `shift+${name}` : name];
      if (action) {
        event.preventDefault();
        action();
      }
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  });
}
