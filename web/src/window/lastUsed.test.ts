import { beforeEach, describe, expect, it } from 'vitest';
import { lastUsed } from './lastUsed.ts';
import { viewsOf } from './views.ts';

describe('the view of a group that was used last', () => {
  beforeEach(() => window.sessionStorage.clear());

  it('is the first one until another was used', () => {
    const [first, second] = viewsOf('Shape');
    expect(lastUsed(3, 'Shape')).toBe(`/3/${first?.path}`);
    window.sessionStorage.setItem('strelm.last.3.Shape', second?.path ?? '');
    expect(lastUsed(3, 'Shape')).toBe(`/3/${second?.path}`);
    expect(lastUsed(4, 'Shape')).toBe(`/4/${first?.path}`);
  });

  it('is the first one again where a view is no more', () => {
    window.sessionStorage.setItem('strelm.last.3.Shape', 'no-such-view');
    expect(lastUsed(3, 'Shape')).toBe(`/3/${viewsOf('Shape')[0]?.path}`);
  });
});
