import { describe, expect, it } from 'vitest';
import { draw, renew } from './markup.ts';

/** Numbers that look random and are the same each time (a linear congruential generator, Numerical Recipes). */
function numbers(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (state * 1_664_525 + 1_013_904_223) % 4_294_967_296;
    return Math.floor((state / 4_294_967_296) * below);
  };
}

const TAGS = ['p', 'div', 'em', 'mark', 'li'];

function html(pick: (below: number) => number, depth: number): string {
  return Array.from({ length: pick(4) }, () => {
    if (depth === 0 || pick(3) === 0) {
      return `w${pick(3)} `;
    }
    const tag = TAGS[pick(TAGS.length)];
    const says = pick(2) === 0 ? ` data-opening="${pick(3)}"` : '';
    return `<${tag}${says}>${html(pick, depth - 1)}</${tag}>`;
  }).join('');
}

function normal(markup: string): string {
  const div = document.createElement('div');
  div.innerHTML = markup;
  return div.innerHTML;
}

describe('the text of a page', () => {
  it('shows what it is renewed to, whatever it was', () => {
    const pick = numbers(7);
    for (let round = 0; round < 400; round += 1) {
      const element = document.createElement('div');
      let drawn = draw(element, html(pick, 3));
      for (let turn = 0; turn < 3; turn += 1) {
        const next = html(pick, 3);
        drawn = renew(element, drawn, next);
        expect(element.innerHTML).toBe(normal(next));
      }
    }
  });

  it('is not drawn anew where a mark comes or goes', () => {
    const element = document.createElement('div');
    const drawn = draw(element, '<main><p>one two</p><p>three four</p><ul><li>five</li></ul></main>');
    const [first, second] = element.querySelectorAll('p');
    first?.setAttribute('tabindex', '0');
    const marked = '<main><p>one two</p><p>three <mark data-tray="1">four</mark></p><ul><li>five</li></ul></main>';
    const again = renew(element, drawn, marked);
    expect(element.querySelectorAll('p')[0]).toBe(first);
    expect(element.querySelectorAll('p')[1]).toBe(second);
    expect(first?.getAttribute('tabindex')).toBe('0');
    expect(second?.innerHTML).toBe('three <mark data-tray="1">four</mark>');
    renew(element, again, '<main><p>one two</p><p>three four</p><ul><li>five</li></ul></main>');
    expect(second?.innerHTML).toBe('three four');
  });
});
