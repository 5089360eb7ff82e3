// Calls to the server, typed by its own description.

import createClient from 'openapi-fetch';
import type { components, paths } from './schema.d.ts';

export type Schema = components['schemas'];

export const api = createClient<paths>({ baseUrl: '/' });

const UNREACHABLE = 'Strelm’s server does not answer. What was saved is safe; try again in a moment.';

/** The data of an answer, or an error whose message is meant for the person at the screen. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: { message: string }; response: Response }>,
): Promise<T> {
  let result: Awaited<typeof call>;
  try {
    result = await call;
  } catch {
    throw new Error(UNREACHABLE);
  }
  if (result.response.ok) {
    return result.data as T;
  }
  throw new Error(result.error?.message ?? UNREACHABLE);
}
