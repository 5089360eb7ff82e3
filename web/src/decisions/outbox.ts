// Decisions on their way to the server: kept in the browser until the server has them, sent one after the other, and
// sent again after a lost connection. Each has its own number, so that none is made twice.

import { ProblemError, type Schema, Unreachable } from '../api/client.ts';

export type What = Schema['What'];

export interface Entry {
  key: string;
  order: { do: 'decide'; what: What } | { do: 'undo' } | { do: 'redo' };
  /** The words that it is about, to name it by. */
  words: string;
  /** What it hides from view until the new rows are there: pairs of pages as `source-target`, and the like. */
  hides?: string[];
}

export interface Ended {
  entry: Entry;
  /** What the server says it did, nothing when there was nothing to do, or why it refused. */
  result: { decided: Schema['Decided'] | null } | { refusal: string };
  /** Whether it waited for the connection to come back. */
  late: boolean;
}

type Send = (entry: Entry) => Promise<Schema['Decided'] | null>;

/** How long to wait before the server is asked again. */
const RETRY = 1500;

export class Outbox {
  private readonly storageKey: string;
  private sending = false;
  private timer: number | undefined;
  private waited = false;
  private readonly listeners = new Set<() => void>();
  private snapshot: readonly Entry[];

  constructor(
    site: number,
    private readonly send: Send,
    private readonly onEnded: (ended: Ended) => Promise<unknown>,
  ) {
    this.storageKey = `strelm.outbox.${site}`;
    this.snapshot = this.load();
  }

  /** Begins to send what was left from before; gives what ends it. */
  start(): () => void {
    const nudge = () => this.nudge();
    const changed = (event: StorageEvent) => event.key === this.storageKey && this.tell();
    window.addEventListener('online', nudge);
    window.addEventListener('storage', changed);
    this.nudge();
    return () => {
      window.removeEventListener('online', nudge);
      window.removeEventListener('storage', changed);
      window.clearTimeout(this.timer);
    };
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** What is not with the server yet, the oldest first. */
  entries = (): readonly Entry[] => this.snapshot;

  add(entry: Entry): void {
    this.store([...this.load(), entry]);
    this.nudge();
  }

  /** Tries at once: the connection may be back. */
  nudge(): void {
    window.clearTimeout(this.timer);
    if (!this.sending) {
      void this.pump();
    }
  }

  private async pump(): Promise<void> {
    this.sending = true;
    try {
      for (let entry = this.load()[0]; entry; entry = this.load()[0]) {
        const ended = await this.settle(entry);
        if (!ended) {
          this.waited = true;
          this.timer = window.setTimeout(() => this.nudge(), RETRY);
          return;
        }
        // What shows depends on it, so it goes from the list when the new state is there; the next is sent meanwhile.
        this.store(this.load().filter((other) => other.key !== ended.entry.key));
        void this.onEnded(ended);
      }
      this.waited = false;
    } finally {
      this.sending = false;
    }
  }

  /** How the entry ended; `null` when the server could not be reached. */
  private async settle(entry: Entry): Promise<Ended | null> {
    try {
      return { entry, result: { decided: await this.send(entry) }, late: this.waited };
    } catch (error) {
      if (error instanceof Unreachable) {
        return null;
      }
      const refusal = error instanceof ProblemError ? error.message : 'Something went wrong. Load the page again.';
      return { entry, result: { refusal }, late: this.waited };
    }
  }

  private load(): Entry[] {
    try {
      const kept: unknown = JSON.parse(window.localStorage.getItem(this.storageKey) ?? '[]');
      return Array.isArray(kept) ? (kept as Entry[]) : [];
    } catch {
      return [];
    }
  }

  private store(entries: Entry[]): void {
    window.localStorage.setItem(this.storageKey, JSON.stringify(entries));
    this.tell();
  }

  private tell(): void {
    this.snapshot = this.load();
    for (const listener of this.listeners) {
      listener();
    }
  }
}
