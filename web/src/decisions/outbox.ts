// Decisions on their way to the server: kept in the browser until the server has said what became of them, sent one after
// the other by one window at a time, and sent again after whatever else was answered. Each has its own number, so that
// none is made twice.

import { ProblemError, type Schema, Unsettled } from '../api/client.ts';
import type { Entry } from './entry.ts';
import { Kept } from './kept.ts';

export interface Ended {
  entry: Entry;
  /** What the server says it did, nothing when there was nothing to do, or why it refused. */
  result: { decided: Schema['Decided'] | null } | { refusal: string };
  /** Whether it waited for the connection to come back. */
  late: boolean;
}

/** Why what waits does not get through. */
export interface Trouble {
  why: string;
  /** How often the first in the row was tried. */
  tries: number;
  /** Whether a server answered, so that the fault may be with the decision itself. */
  isAnswered: boolean;
}

export interface Waiting {
  /** What is not with the server yet, the oldest first. */
  entries: readonly Entry[];
  trouble: Trouble | null;
  /** Whether some of it would be lost with the window: the browser keeps nothing. */
  isVolatile: boolean;
}

type Send = (entry: Entry) => Promise<Schema['Decided'] | null>;

/** How long to wait before the server is asked again: twice as long each time, up to the longest. In milliseconds. */
const FIRST_WAIT = 250;
const LONGEST_WAIT = 30_000;

export class Outbox {
  private readonly kept: Kept;
  private readonly name: string;
  private readonly channel: BroadcastChannel;
  /** Keys of what was decided in this window. */
  private readonly own = new Set<string>();
  private readonly listeners = new Set<() => void>();
  private sending = false;
  private timer: number | undefined;
  private trouble: Trouble | null = null;
  /** Until the next try, in milliseconds. */
  private wait = FIRST_WAIT;
  private snapshot: Waiting;

  constructor(
    site: number,
    private readonly send: Send,
    private readonly onEnded: (ended: Ended) => Promise<unknown>,
  ) {
    this.kept = new Kept(site);
    this.name = `strelm.outbox.${site}`;
    this.channel = new BroadcastChannel(this.name);
    this.snapshot = this.look();
  }

  /** Begins to send what was left from before; gives what ends it. */
  start(): () => void {
    const nudge = () => this.nudge();
    const changed = (event: StorageEvent) => this.kept.isName(event.key) && this.tell();
    const leave = (event: BeforeUnloadEvent) => this.snapshot.isVolatile && event.preventDefault();
    window.addEventListener('online', nudge);
    window.addEventListener('storage', changed);
    window.addEventListener('beforeunload', leave);
    // Another window may send what was decided here.
    this.channel.onmessage = ({ data }: MessageEvent<Ended>) => {
      if (this.own.delete(data.entry.key)) {
        void this.onEnded(data);
      }
      // What got through there gets through here.
      this.trouble = null;
      this.tell();
    };
    this.nudge();
    return () => {
      window.removeEventListener('online', nudge);
      window.removeEventListener('storage', changed);
      window.removeEventListener('beforeunload', leave);
      window.clearTimeout(this.timer);
      this.channel.onmessage = null;
    };
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  waiting = (): Waiting => this.snapshot;

  add(entry: Entry): void {
    this.own.add(entry.key);
    this.kept.put(entry);
    this.tell();
    // While the server is in trouble it is not pressed: the next try is on its way.
    if (!this.trouble) {
      this.nudge();
    }
  }

  /** Gives up what waits, as the editor decides. */
  leaveOut(key: string): void {
    this.own.delete(key);
    this.kept.remove(key);
    this.trouble = null;
    this.tell();
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
      await exclusively(this.name, () => this.sendAll());
    } finally {
      this.sending = false;
    }
    if (this.trouble) {
      this.timer = window.setTimeout(() => this.nudge(), this.wait);
    } else if (this.kept.all().length > 0) {
      // Decided in the moment in which the last was done.
      this.nudge();
    }
  }

  /** Sends one after the other until all are with the server or one does not get through. */
  private async sendAll(): Promise<void> {
    for (let entry = this.kept.all()[0]; entry; entry = this.kept.all()[0]) {
      const ended = await this.settle(entry);
      if (!ended) {
        return;
      }
      // What shows depends on it, so it goes from the list when the new state is there; the next is sent meanwhile.
      this.kept.remove(entry.key);
      this.trouble = null;
      this.channel.postMessage(ended);
      this.own.delete(entry.key);
      void this.onEnded(ended);
      this.tell();
    }
    this.trouble = null;
    this.tell();
  }

  /** How the entry ended; `null` when that is not known. */
  private async settle(entry: Entry): Promise<Ended | null> {
    const late = this.trouble !== null;
    try {
      return { entry, result: { decided: await this.send(entry) }, late };
    } catch (error) {
      if (error instanceof ProblemError) {
        return { entry, result: { refusal: error.message }, late };
      }
      const [status, asked] = error instanceof Unsettled ? [error.status, error.wait] : [null, 0];
      const why = error instanceof Error ? error.message : String(error);
      const tries = (this.trouble?.tries ?? 0) + 1;
      this.trouble = { why, tries, isAnswered: status !== null && status !== 429 };
      // Not all windows at the same moment.
      const doubled = Math.min(LONGEST_WAIT, FIRST_WAIT * 2 ** (tries - 1)) * (0.75 + Math.random() / 2);
      this.wait = Math.max(asked, doubled);
      this.tell();
      return null;
    }
  }

  private look(): Waiting {
    return { entries: this.kept.all(), trouble: this.trouble, isVolatile: this.kept.isVolatile };
  }

  private tell(): void {
    this.snapshot = this.look();
    for (const listener of this.listeners) {
      listener();
    }
  }
}

/** Does some work while no other window does the same. */
function exclusively(name: string, work: () => Promise<void>): Promise<void> {
  // Only where a page came over a safe connection does a browser have locks.
  return navigator.locks?.request(name, work) ?? work();
}
