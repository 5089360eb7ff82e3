// The text of a page in the document, brought up to date without drawing anew what stays.

/** Puts HTML into an element. Answers with what it was made of, for {@link renew}. O(HTML). */
export function draw(element: Element, html: string): Element {
  element.innerHTML = html;
  return parsed(html);
}

/**
 * Makes an element, drawn from `before`, show other HTML: only the smallest parts that differ are replaced, so marks that
 * come and go leave the text around them as it is. Attributes that were set on the element since stay. Answers with what
 * it is made of now. O(HTML × depth).
 */
export function renew(element: Element, before: Element, html: string): Element {
  const now = parsed(html);
  renewChildren(element, before, now);
  return now;
}

function parsed(html: string): Element {
  const template = document.createElement('template');
  template.innerHTML = html;
  const root = document.createElement('div');
  root.append(template.content);
  return root;
}

/** `shown` has a child for each child of `before`. */
function renewChildren(shown: Node, before: Node, now: Node): void {
  const old = [...before.childNodes];
  const next = [...now.childNodes];
  const there = [...shown.childNodes];
  const alike = (one: Node | undefined, other: Node | undefined) => one && other && one.isEqualNode(other);
  let begin = 0;
  while (begin < old.length && begin < next.length && alike(old[begin], next[begin])) {
    begin += 1;
  }
  let end = 0;
  const most = Math.min(old.length, next.length) - begin;
  while (end < most && alike(old[old.length - 1 - end], next[next.length - 1 - end])) {
    end += 1;
  }
  const oldMiddle = old.slice(begin, old.length - end);
  const nextMiddle = next.slice(begin, next.length - end);
  const shownMiddle = there.slice(begin, old.length - end);
  if (oldMiddle.length === nextMiddle.length) {
    for (const [place, was] of oldMiddle.entries()) {
      renewNode(shownMiddle[place], was, nextMiddle[place]);
    }
    return;
  }
  const after = there[old.length - end] ?? null;
  for (const node of shownMiddle) {
    shown.removeChild(node);
  }
  for (const node of nextMiddle) {
    shown.insertBefore(node.cloneNode(true), after);
  }
}

function renewNode(shown: Node | undefined, was: Node, now: Node | undefined): void {
  if (!shown || !now || was.isEqualNode(now)) {
    return;
  }
  if (shown instanceof Element && was instanceof Element && now instanceof Element && isSameTag(was, now)) {
    renewChildren(shown, was, now);
  } else {
    shown.parentNode?.replaceChild(now.cloneNode(true), shown);
  }
}

function isSameTag(one: Element, other: Element): boolean {
  return one.cloneNode(false).isEqualNode(other.cloneNode(false));
}
