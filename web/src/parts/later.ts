// Parts of the program that come when they are opened.

import { type ComponentType, lazy } from 'react';
import { keep, recall } from './browserStorage.ts';

/** When a part is fetched that nobody asked for yet, in milliseconds after the window is there. */
const SOON = 1500;

/** A window that was opened before the server was renewed asks for parts that are no more: once, it is loaded anew. */
const RENEWED = 'strelm.renewed';

/** A component whose part of the program comes when it is opened, or a moment after the window is there. */
export function later<Props extends object>(load: () => Promise<ComponentType<Props>>): ComponentType<Props> {
  let loading: Promise<{ default: ComponentType<Props> }> | undefined;
  const once = () => {
    loading ??= load().then(
      (component) => ({ default: component }),
      (error: unknown) => {
        loading = undefined;
        throw error;
      },
    );
    return loading;
  };
  const Later = lazy(() =>
    once().catch((error: unknown) => {
      if (Date.now() - lastRenewed() > 60_000) {
        if (keep('sessionStorage', RENEWED, String(Date.now()))) {
          window.location.reload();
        }
      }
      throw error;
    }),
  );
  window.setTimeout(() => void once().catch(() => undefined), SOON);
  return Later;
}

function lastRenewed(): number {
  return Number(recall('sessionStorage', RENEWED) ?? 0);
}
