// Decisions that the server has not confirmed, kept in the browser. Each stands under a name of its own, so that two
// windows never write over each other; where the browser keeps nothing they are held in memory.

import { keep, recall } from '../parts/browserStorage.ts';
import type { Entry } from './entry.ts';

export class Kept {
  private readonly prefix: string;
  private readonly inMemory = new Map<string, Entry>();
  private last = 0;

  constructor(site: number) {
    this.prefix = `strelm.outbox.${site}.`;
    this.takeOver(`strelm.outbox.${site}`);
  }

  /** All of them, the oldest first. */
  all(): Entry[] {
    const named = new Map(this.inMemory);
    try {
      for (let at = 0; at < window.localStorage.length; at += 1) {
        const name = window.localStorage.key(at);
        const entry = name?.startsWith(this.prefix) ? read(window.localStorage.getItem(name)) : null;
        if (name && entry) {
          named.set(name, entry);
        }
      }
    } catch {
      // What cannot be read is not there.
    }
    return [...named].sort(([one], [other]) => (one < other ? -1 : 1)).map(([, entry]) => entry);
  }

  put(entry: Entry): void {
    // Names are in the order of time, also of decisions of the same millisecond.
    this.last = Math.max(this.last + 1, Date.now() * 1000);
    const name = `${this.prefix}${String(this.last).padStart(17, '0')}.${entry.key}`;
    if (!keep('localStorage', name, JSON.stringify(entry))) {
      this.inMemory.set(name, entry);
    }
  }

  remove(key: string): void {
    for (const name of [...this.inMemory.keys()].filter((name) => name.endsWith(key))) {
      this.inMemory.delete(name);
    }
    try {
      for (const name of Object.keys(window.localStorage)) {
        if (name.startsWith(this.prefix) && name.endsWith(key)) {
          window.localStorage.removeItem(name);
        }
      }
    } catch {
      // Nothing was kept there.
    }
  }

  /** Whether some of them would be lost with the window. */
  get isVolatile(): boolean {
    return this.inMemory.size > 0;
  }

  isName(name: string | null): boolean {
    // Without a name everything was removed.
    return name === null || name.startsWith(this.prefix);
  }

  /** Of an earlier version, which kept all under one name. */
  private takeOver(name: string): void {
    try {
      const all: unknown = JSON.parse(recall('localStorage', name) ?? '[]');
      for (const entry of Array.isArray(all) ? all : []) {
        this.put(entry as Entry);
      }
      window.localStorage.removeItem(name);
    } catch {
      // What cannot be read stays where it is.
    }
  }
}

function read(text: string | null): Entry | null {
  try {
    const entry = JSON.parse(text ?? 'null') as Entry | null;
    return typeof entry?.key === 'string' && typeof entry.order?.do === 'string' ? entry : null;
  } catch {
    return null;
  }
}
