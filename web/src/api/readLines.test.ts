import { describe, expect, it } from 'vitest';
import { readLines } from './readLines.ts';

function streamOf(text: string, at: number[]): ReadableStream<Uint8Array> {
  const bytes = new TextEncoder().encode(text);
  const cuts = [0, ...at, bytes.length];
  return new ReadableStream({
    start(controller) {
      for (const [part, end] of cuts.slice(1).entries()) {
        controller.enqueue(bytes.slice(cuts[part], end));
      }
      controller.close();
    },
  });
}

describe('the lines of an answer', () => {
  it('are the same wherever the stream is cut, in the midst of a letter too', async () => {
    const text = '{"a":"é"}\n\n{"b":"…"}\n{"c":1}';
    for (let one = 0; one <= 30; one += 1) {
      for (const other of [one, one + 1, one + 9]) {
        const lines: string[] = [];
        for await (const line of readLines(streamOf(text, [one, other]))) {
          lines.push(line);
        }
        expect(lines).toEqual(['{"a":"é"}', '{"b":"…"}', '{"c":1}']);
      }
    }
  });
});
