// Short notices at the foot of the window, read out by screen readers.

export interface Notice {
  text: string;
  isError?: boolean;
  /** A way on, such as to a view. */
  link?: { to: string; text: string };
}

type Listener = (notice: Notice) => void;
const listeners = new Set<Listener>();

/** Shows a notice. */
export function say(notice: Notice): void {
  for (const listener of listeners) {
    listener(notice);
  }
}

export function onNotice(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
