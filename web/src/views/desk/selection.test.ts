import { beforeEach, describe, expect, it } from 'vitest';
import { selectedWords } from './selection.ts';

describe('selected words', () => {
  let reader: HTMLElement;

  beforeEach(() => {
    document.body.innerHTML =
      '<div id="reader"><p>A <em>red torch</em> is lent.</p><p>Ask for it.</p></div><p>Elsewhere</p>';
    reader = document.querySelector('#reader') as HTMLElement;
  });

  const select = (from: Node | null | undefined, start: number, to: Node | null | undefined, end: number) => {
    const range = document.createRange();
    range.setStart(from as Node, start);
    range.setEnd(to as Node, end);
    const selection = window.getSelection();
    selection?.removeAllRanges();
    selection?.addRange(range);
  };

  it('come with what stands around them in their paragraph, over markup and without space at their ends', () => {
    const [first] = reader.querySelectorAll('p');
    const [begin, em, end] = [first?.childNodes[0], first?.querySelector('em')?.firstChild, first?.childNodes[2]];
    select(em, 0, em, 9);
    expect(selectedWords(reader)).toEqual({ anchor: 'red torch', before: 'A ', after: ' is lent.' });
    select(begin, 1, end, 4);
    expect(selectedWords(reader)).toEqual({ anchor: 'red torch is', before: 'A ', after: ' lent.' });
  });

  it('are none without a selection, over paragraphs, and outside of the text', () => {
    const [first, second] = reader.querySelectorAll('p');
    window.getSelection()?.removeAllRanges();
    expect(selectedWords(reader)).toBeUndefined();
    select(first?.childNodes[0], 0, second?.firstChild, 3);
    expect(selectedWords(reader)).toBeUndefined();
    const elsewhere = document.body.lastElementChild?.firstChild;
    select(elsewhere, 0, elsewhere, 4);
    expect(selectedWords(reader)).toBeUndefined();
    const text = first?.childNodes[0];
    select(text, 1, text, 2);
    expect(selectedWords(reader)).toBeUndefined();
  });

  it('are none where they are longer than a sentence could be', () => {
    reader.innerHTML = `<p>${'moon '.repeat(100)}</p>`;
    const text = reader.querySelector('p')?.firstChild;
    select(text, 0, text, 420);
    expect(selectedWords(reader)).toBeUndefined();
    select(text, 200, text, 204);
    const words = selectedWords(reader);
    const around = words && 'anchor' in words ? [words.anchor, words.before.length, words.after.length] : [];
    expect(around).toEqual(['moon', 160, 160]);
  });
});
