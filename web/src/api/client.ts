// Calls to the server, typed by its own description.

import createClient from 'openapi-fetch';
import type { components, paths } from './schema.d.ts';

export type Schema = components['schemas'];

export const api = createClient<paths>({ baseUrl: '/' });

/** The server could not be asked: nothing is known of what became of the request. */
export class Unreachable extends Error {
  constructor() {
    super('Strelm’s server does not answer. What was saved is safe; try again in a moment.');
  }
}

/** The server's own words for the person at the screen. */
export class ProblemError extends Error {}

/** Answers of whatever stands between us and the server. */
const NOT_OURS = [502, 503, 504];

/** The data of an answer, or an error whose message is meant for the person at the screen. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: { message: string }; response: Response }>,
): Promise<T> {
  let result: Awaited<typeof call>;
  try {
    result = await call;
  } catch {
    throw new Unreachable();
  }
  if (result.response.ok) {
    return result.data as T;
  }
  if (NOT_OURS.includes(result.response.status)) {
    throw new Unreachable();
  }
  if (result.response.status === 429) {
    throw new ProblemError('That was very much at once. Wait a moment, then try again.');
  }
  throw new ProblemError(result.error?.message ?? 'The server gave no reason. Load the page again.');
}
