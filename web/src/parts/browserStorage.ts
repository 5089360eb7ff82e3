// What the browser keeps for us, where it keeps anything: its storage may be full, or blocked altogether.

type Where = 'localStorage' | 'sessionStorage';

/** What was kept under a name; `null` when nothing was, or nothing can be. */
export function recall(where: Where, name: string): string | null {
  try {
    return window[where].getItem(name);
  } catch {
    return null;
  }
}

/** Whether it is kept now. */
export function keep(where: Where, name: string, text: string): boolean {
  try {
    window[where].setItem(name, text);
    return true;
  } catch {
    return false;
  }
}
