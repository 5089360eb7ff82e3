// Keys that act on the whole window or on a view.

import { useEffect } from 'react';

/** Whether a dialog, a panel or a menu stands over the view: it has the keys. */
export const isOverlaid = () => document.querySelector('[role=dialog], [role=menu]') !== null;

/** Whether keys belong to a field, or to what stands over the view. */
export function belongsElsewhere(event: KeyboardEvent): boolean {
  const target = event.target;
  const isTyping = target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]');
  return isTyping || isOverlaid();
}

type Actions = Record<string, () => void>;

type Pressed = Pick<KeyboardEvent, 'key' | 'shiftKey' | 'ctrlKey' | 'metaKey' | 'altKey' | 'repeat'>;

/** What a key does, if it does something. */
export function actionOf(pressed: Pressed, keys: Actions): (() => void) | undefined {
  if (pressed.ctrlKey || pressed.metaKey || pressed.altKey || pressed.repeat) {
    return undefined;
  }
  const name = pressed.key.toLowerCase();
  // A key that is only there with Shift, such as ?, is named by itself.
  const isLetter = /^[a-z]$/.test(name);
  return keys[pressed.shiftKey && isLetter ? `shift+${name}` : name];
}

/**
 * Acts when one of some keys is pressed, unless somebody is typing. Keys are named as `KeyboardEvent.key` does, with
 * `shift+` before them where that counts.
 */
export function useKeys(keys: Actions): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const action = belongsElsewhere(event) ? undefined : actionOf(event, keys);
      if (action) {
        event.preventDefault();
        action();
      }
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  });
}
