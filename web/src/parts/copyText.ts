import { say } from './notices.ts';

/** Puts a text on the clipboard and says so; `what` it is stands in the middle of a sentence. */
export async function copyText(text: string, what: string): Promise<void> {
  try {
    await navigator.clipboard.writeText(text);
    say({ text: `Copied ${what}.` });
  } catch {
    say({ text: `The browser does not let ${what} be copied. Mark it and copy it by hand.`, isError: true });
  }
}
