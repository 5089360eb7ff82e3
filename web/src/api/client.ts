// Calls to the server, typed by its own description.

import createClient from 'openapi-fetch';
import type { components, paths } from './schema.d.ts';

export type Schema = components['schemas'];

export const api = createClient<paths>({ baseUrl: '/' });

/** It is not known what became of the request: it is to be asked again. */
export class Unsettled extends Error {
  constructor(
    message: string,
    /** The status of what was answered; `null` when nothing was. */
    readonly status: number | null,
    /** How long the server asks to wait, in milliseconds. */
    readonly wait = 0,
  ) {
    super(message);
  }
}

/** The server's own refusal, in words for the person at the screen. */
export class ProblemError extends Error {}

const SILENT = 'Strelm’s server does not answer. What was saved is safe; try again in a moment.';
const TORN = 'The server’s answer did not arrive whole. Try again in a moment.';
const TOO_MUCH = 'That was very much at once. Wait a moment, then try again.';

/** Refusals that say nothing of the request itself: it came at a bad moment. */
const BAD_MOMENT = [408, 425, 429];

/** The data of an answer, or an error whose message is meant for the person at the screen. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result: Awaited<typeof call>;
  try {
    result = await call;
  } catch (error) {
    throw new Unsettled(error instanceof SyntaxError ? TORN : SILENT, null);
  }
  const { response } = result;
  if (response.ok) {
    if (result.data === undefined && response.status !== 204) {
      throw new Unsettled(TORN, response.status);
    }
    return result.data as T;
  }
  throw failure(response.status, result.error, waitOf(response));
}

/** What an answer with a bad status means. */
export function failure(status: number, body: unknown, wait = 0): Error {
  const words = wordsOf(body);
  if (BAD_MOMENT.includes(status)) {
    return new Unsettled(TOO_MUCH, status, wait);
  }
  // What stands between us and the server answers too, but not in our words.
  if (status >= 500 || !words) {
    return new Unsettled(words ?? SILENT, status, wait);
  }
  return new ProblemError(words);
}

function wordsOf(body: unknown): string | undefined {
  const message = typeof body === 'object' && body !== null ? (body as { message?: unknown }).message : undefined;
  return typeof message === 'string' && message !== '' ? message : undefined;
}

function waitOf(response: Response): number {
  const seconds = Number(response.headers.get('Retry-After') ?? 0);
  return Number.isFinite(seconds) ? Math.max(0, seconds) * 1000 : 0;
}
