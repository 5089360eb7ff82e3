import { describe, expect, it } from 'vitest';
import { actionOf, belongsElsewhere } from './keys.ts';

const pressed = (key: string, held: object = {}) => ({
  ...{ key, shiftKey: false, ctrlKey: false, metaKey: false, altKey: false, repeat: false },
  ...held,
});

describe('keys', () => {
  const keys = { p: () => {}, 'shift+p': () => {}, '?': () => {}, escape: () => {} };

  it('act by their names, with Shift only where it counts', () => {
    expect(actionOf(pressed('p'), keys)).toBe(keys.p);
    expect(actionOf(pressed('P', { shiftKey: true }), keys)).toBe(keys['shift+p']);
    expect(actionOf(pressed('P'), keys), 'with Caps Lock').toBe(keys.p);
    expect(actionOf(pressed('?', { shiftKey: true }), keys)).toBe(keys['?']);
    expect(actionOf(pressed('Escape'), keys)).toBe(keys.escape);
    expect(actionOf(pressed('x'), keys)).toBeUndefined();
  });

  it('leave to the browser what is its own, and do nothing twice when held', () => {
    for (const held of [{ ctrlKey: true }, { metaKey: true }, { altKey: true }, { repeat: true }]) {
      expect(actionOf(pressed('p', held), keys)).toBeUndefined();
    }
  });

  it('belong to fields and open dialogs', () => {
    document.body.innerHTML = '<input><button></button>';
    const from = (selector: string) => {
      const event = new KeyboardEvent('keydown', { key: 'p', bubbles: true });
      document.querySelector(selector)?.dispatchEvent(event);
      return belongsElsewhere(event);
    };
    expect([from('input'), from('button')]).toEqual([true, false]);
    document.body.insertAdjacentHTML('beforeend', '<div role="dialog"></div>');
    expect(from('button')).toBe(true);
    document.body.innerHTML = '';
  });
});
