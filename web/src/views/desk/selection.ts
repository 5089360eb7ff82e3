// Words that somebody selected in the text, with what stands around them in their paragraph.

import type { Words } from './useDesk.ts';

const BLOCKS = 'p, li, td, th, dd, dt, blockquote, figcaption, caption, summary, div';

/** So much of the paragraph is enough to know the place again. */
const AROUND = 160;

/** The selected words of `reader`; nothing when there are none, or when they are not in one paragraph. */
export function selectedWords(reader: HTMLElement): Words | undefined {
  const selection = window.getSelection();
  if (!selection || selection.isCollapsed || selection.rangeCount === 0) {
    return undefined;
  }
  const range = selection.getRangeAt(0);
  const at = range.commonAncestorContainer;
  const block = (at instanceof Element ? at : at.parentElement)?.closest(BLOCKS);
  const text = range.toString();
  if (!block || !reader.contains(block) || block === reader || text.trim() === '' || text.length > 400) {
    return undefined;
  }
  const before = document.createRange();
  before.selectNodeContents(block);
  before.setEnd(range.startContainer, range.startOffset);
  const after = document.createRange();
  after.selectNodeContents(block);
  after.setStart(range.endContainer, range.endOffset);
  // White space at the ends of what was selected belongs around it.
  const lead = text.length - text.trimStart().length;
  const tail = text.trimEnd().length;
  return {
    anchor: text.trim(),
    before: `${before}${text.slice(0, lead)}`.slice(-AROUND),
    after: `${text.slice(tail)}${after}`.slice(0, AROUND),
  };
}
