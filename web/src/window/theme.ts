// Light or dark, as the person chose or as the system says.

import { useSyncExternalStore } from 'react';
import { keep, recall } from '../parts/browserStorage.ts';

export type Theme = 'light' | 'dark';

const KEY = 'strelm.theme';
const NAMES: Record<Theme, string> = { light: 'strelm', dark: 'strelm-dark' };
const dark = window.matchMedia('(prefers-color-scheme: dark)');
const listeners = new Set<() => void>();

function current(): Theme {
  const chosen = recall('localStorage', KEY);
  if (chosen === 'light' || chosen === 'dark') {
    return chosen;
  }
  return dark.matches ? 'dark' : 'light';
}

function apply(): void {
  document.documentElement.dataset.theme = NAMES[current()];
  for (const listener of listeners) {
    listener();
  }
}

/** To be called once, before anything is shown. */
export function startTheme(): void {
  dark.addEventListener('change', apply);
  apply();
}

export function useTheme(): [Theme, (theme: Theme) => void] {
  const subscribe = (listener: () => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  };
  const choose = (theme: Theme) => {
    keep('localStorage', KEY, theme);
    apply();
  };
  return [useSyncExternalStore(subscribe, current), choose];
}
