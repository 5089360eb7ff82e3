// Lines of an answer as they come.

/** The lines of a stream of UTF-8; the last one may lack its end. */
export async function* readLines(stream: ReadableStream<Uint8Array>): AsyncGenerator<string> {
  const reader = stream.getReader();
  const decoder = new TextDecoder();
  let rest = '';
  try {
    for (;;) {
      const { done, value } = await reader.read();
      rest += done ? decoder.decode() : decoder.decode(value, { stream: true });
      const lines = rest.split('\n');
      rest = done ? '' : (lines.pop() ?? '');
      yield* lines.filter((line) => line !== '');
      if (done) {
        return;
      }
    }
  } finally {
    // Whoever breaks off wants no more.
    await reader.cancel().catch(() => undefined);
  }
}
