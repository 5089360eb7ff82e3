// This browser's own number: undoing undoes what was decided here.

const KEY = 'strelm.hand';

/** A number that nobody else has. */
export function newNumber(): string {
  return crypto.randomUUID();
}

let kept: string | undefined;

export function hand(): string {
  if (!kept) {
    const stored = window.localStorage.getItem(KEY);
    kept = stored && /^[0-9a-f-]{36}$/.test(stored) ? stored : newNumber();
    window.localStorage.setItem(KEY, kept);
  }
  return kept;
}
