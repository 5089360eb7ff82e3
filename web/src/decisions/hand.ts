// This browser's own number: undoing undoes what was decided here.

import { keep, recall } from '../parts/browserStorage.ts';

const KEY = 'strelm.hand';

/** A number that nobody else has. */
export function newNumber(): string {
  return crypto.randomUUID();
}

let kept: string | undefined;

export function hand(): string {
  if (!kept) {
    kept = stored() ?? newNumber();
    // Where the browser keeps nothing the number is this window's alone.
    keep('localStorage', KEY, kept);
  }
  return kept;
}

function stored(): string | null {
  const number = recall('localStorage', KEY);
  return number && /^[0-9a-f-]{36}$/.test(number) ? number : null;
}
