// Follows a site's journal: whatever changed, by whomever, is asked for again.

import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { type Asked, between, type Changes, notAsked, readTold, refresh, type Told, together } from './stale.ts';

/** At most one round of questions in so many milliseconds, however fast the journal grows. */
const PAUSE = 250;

/** Before a connection is made anew that the browser gave up. */
const RETRY = 2000;

interface Own {
  /** Called each time that the connection is there (again). */
  nudge: () => void;
  /** What this browser changed and asked for itself. */
  asked: () => Asked;
}

/** Whether the connection stands. */
export function useJournal(site: number, own: Own): boolean {
  const queries = useQueryClient();
  const [connected, setConnected] = useState(true);
  const ours = useRef(own);
  ours.current = own;
  useEffect(() => {
    const follower = new Follower(`/api/sites/${site}/events`, {
      grown: (changes, seq) => void refresh(queries, site, notAsked(changes, seq, ours.current.asked())),
      back: () => ours.current.nudge(),
      connected: setConnected,
    });
    return follower.start();
  }, [site, queries]);
  return connected;
}

interface Heard {
  grown: (changes: Changes, seq: number) => void;
  back: () => void;
  connected: (is: boolean) => void;
}

/**
 * One connection while the window is in view. A browser has only few to each server: pages that are hidden, or kept for
 * going back to, must not hold one.
 */
class Follower {
  private source: EventSource | undefined;
  private refresh: number | undefined;
  private again: number | undefined;
  private last: Told | undefined;
  private changes: Changes = new Set();

  constructor(
    private readonly address: string,
    private readonly heard: Heard,
  ) {}

  /** Follows until what it gives is called. */
  start(): () => void {
    const look = () => (document.hidden ? this.close() : this.open());
    const leave = () => this.close();
    document.addEventListener('visibilitychange', look);
    window.addEventListener('pagehide', leave);
    window.addEventListener('pageshow', look);
    look();
    return () => {
      document.removeEventListener('visibilitychange', look);
      window.removeEventListener('pagehide', leave);
      window.removeEventListener('pageshow', look);
      window.clearTimeout(this.refresh);
      this.close();
    };
  }

  private open(): void {
    if (this.source) {
      return;
    }
    const source = new EventSource(this.address);
    this.source = source;
    source.onopen = () => {
      this.heard.connected(true);
      this.heard.back();
    };
    source.onerror = () => {
      this.heard.connected(false);
      // Some answers make a browser give up for good.
      if (source.readyState === EventSource.CLOSED) {
        this.close();
        this.again = window.setTimeout(() => this.open(), RETRY);
      }
    };
    source.onmessage = (event: MessageEvent<string>) => {
      const now = readTold(event.data);
      // The first event tells where the journal stands; the same number again, after a lost connection, is no news.
      const changes = this.last && between(this.last, now);
      this.last = now;
      if (changes) {
        this.changes = together(this.changes, changes);
        this.refresh ??= window.setTimeout(() => {
          this.refresh = undefined;
          const gathered = this.changes;
          this.changes = new Set();
          this.heard.grown(gathered, this.last?.seq ?? 0);
        }, PAUSE);
      }
    };
  }

  private close(): void {
    window.clearTimeout(this.again);
    this.source?.close();
    this.source = undefined;
  }
}
