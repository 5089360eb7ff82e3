// Short notices at the foot of the window, and what is only read out by screen readers.

export interface Notice {
  text: string;
  isError?: boolean;
  /** A way on, such as to a view. */
  link?: { to: string; text: string };
  /** What can be done about it. */
  act?: { text: string; press: () => void };
}

type Listener<T> = (value: T) => void;

const notices = new Set<Listener<Notice>>();
const announcements = new Set<Listener<string>>();

/** Shows a notice. */
export function say(notice: Notice): void {
  for (const listener of notices) {
    listener(notice);
  }
}

/** Lets screen readers say what everybody else sees. */
export function announce(text: string): void {
  for (const listener of announcements) {
    listener(text);
  }
}

export function onNotice(listener: Listener<Notice>): () => void {
  notices.add(listener);
  return () => notices.delete(listener);
}

export function onAnnouncement(listener: Listener<string>): () => void {
  announcements.add(listener);
  return () => announcements.delete(listener);
}
