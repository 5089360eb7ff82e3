import { type ReactNode, type RefObject, useEffect, useState } from 'react';

interface Props {
  reader: RefObject<HTMLDivElement | null>;
  /** Another object when there is another text. */
  marks: object;
  children: ReactNode;
}

/** What stands around a page's own content, menus and the like, is folded into one line before and one after it. */
export function Folded({ reader, marks, children }: Props) {
  const [around, setAround] = useState<{ before: HTMLElement[]; after: HTMLElement[] }>({ before: [], after: [] });
  const [open, setOpen] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another text has other parts
  useEffect(() => {
    const root = reader.current;
    const [begin, end] = ['0', '1'].map((part) => root?.querySelector(`mark[data-part="${part}"]`));
    setAround({
      before: root && begin ? beyond(root, begin, 'previousSibling') : [],
      after: root && end ? beyond(root, end, 'nextSibling') : [],
    });
  }, [marks]);
  useEffect(() => {
    for (const part of [...around.before, ...around.after]) {
      part.hidden = !open;
    }
  }, [around, open]);
  const line = (parts: HTMLElement[], where: string) =>
    parts.length > 0 && (
      <button
        type="button"
        aria-expanded={open}
        className="my-2 flex w-full items-center gap-2 border-y border-base-300 py-1 text-left text-xs text-secondary"
        onClick={() => setOpen(!open)}
      >
        <span aria-hidden="true">{open ? '▾' : '▸'}</span>
        {open ? 'Fold' : 'Show'} what stands {where} the text: {firstWords(parts)}
      </button>
    );
  return (
    <>
      {line(around.before, 'before')}
      {children}
      {line(around.after, 'after')}
    </>
  );
}

/** All that stands before or behind a place, as elements that can be hidden. */
function beyond(root: HTMLElement, place: Element, way: 'previousSibling' | 'nextSibling'): HTMLElement[] {
  const parts: HTMLElement[] = [];
  for (let here: Node | null = place; here && here !== root; here = here.parentNode) {
    for (let other = here[way]; other; ) {
      const next = other[way];
      const part = other instanceof HTMLElement ? other : wrapped(other);
      if (part?.textContent?.trim() || part?.querySelector('img')) {
        parts.push(part);
      }
      other = next;
    }
  }
  return way === 'previousSibling' ? parts.reverse() : parts;
}

/** Words that stand by themselves, in an element of their own. */
function wrapped(node: Node): HTMLElement | undefined {
  if (!node.textContent?.trim() || !(node instanceof Text)) {
    return undefined;
  }
  const element = document.createElement('span');
  node.replaceWith(element);
  element.append(node);
  return element;
}

function firstWords(parts: HTMLElement[]): string {
  const words = parts
    .flatMap((part) => textsIn(part))
    .flatMap((text) => text.split(/\s+/))
    .filter(Boolean);
  return words.length > 8 ? `${words.slice(0, 8).join(' ')} …` : words.join(' ');
}

/** Texts of neighbouring blocks are no one word. */
function textsIn(part: HTMLElement): string[] {
  const walker = document.createTreeWalker(part, NodeFilter.SHOW_TEXT);
  const texts: string[] = [];
  while (walker.nextNode() && texts.length < 50) {
    texts.push(walker.currentNode.textContent ?? '');
  }
  return texts;
}

/** The heading that only says again what stands above the page. */
export function hideTitle(root: HTMLElement, titles: string[]): void {
  const letters = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
  const said = titles.map(letters).filter(Boolean);
  const first = root.querySelector<HTMLElement>('h1, h2');
  if (first && said.includes(letters(first.textContent ?? '')) && !first.querySelector('mark[data-tray], img')) {
    first.hidden = true;
  }
}
