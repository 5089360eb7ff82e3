// This browser's own number: undoing undoes what was decided here.

const KEY = 'strelm.hand';

/** A number that nobody else has. */
export function newNumber(): string {
  return crypto.randomUUID();
}

let kept: string | undefined;

export function hand(): string {
  kept ??= stored() ?? store(newNumber());
  return kept;
}

function stored(): string | null {
  try {
    const number = window.localStorage.getItem(KEY);
    return number && /^[0-9a-f-]{36}$/.test(number) ? number : null;
  } catch {
    return null;
  }
}

/** Where the browser keeps nothing the number is this window's alone. */
function store(number: string): string {
  try {
    window.localStorage.setItem(KEY, number);
  } catch {
    // It is held in memory.
  }
  return number;
}
