import { describe, expect, it } from 'vitest';
import { type Depth, layOut, neighbour, pageAt } from './layout.ts';

const ROOM = { width: 400, height: 300 };

function made(pages: number): { depths: Depth[]; equity: number[] } {
  const depths = Array.from({ length: pages }, (_, page) => (page === 0 ? 0 : page % 7 === 6 ? null : 1 + (page % 5)));
  return { depths, equity: depths.map((_, page) => ((page * 37) % 100) / 40) };
}

describe('the chart of soundings', () => {
  for (const pages of [1, 40, 3000, 20_000]) {
    it(`puts ${pages} pages into bands, none over another, each where it is found`, () => {
      const { depths, equity } = made(pages);
      const layout = layOut(depths, equity, ROOM);
      expect(layout.bands.flatMap((band) => band.pages).sort((a, b) => a - b)).toEqual(depths.map((_, page) => page));
      expect(layout.lines.flatMap((line) => line.pages)).toHaveLength(pages);
      for (const band of layout.bands) {
        for (const page of band.pages) {
          expect(depths[page]).toBe(band.depth);
          const top = layout.top[page] ?? -1;
          expect(top).toBeGreaterThanOrEqual(band.top);
          expect(top + layout.tickHeight).toBeLessThanOrEqual(band.top + band.height + 0.01);
          expect((layout.left[page] ?? 0) + (layout.width[page] ?? 0)).toBeLessThanOrEqual(ROOM.width + 0.01);
        }
      }
      const middle = (page: number) =>
        pageAt(layout, (layout.left[page] ?? 0) + (layout.width[page] ?? 0) / 2, (layout.top[page] ?? 0) + 1);
      expect(depths.every((_, page) => middle(page) === page)).toBe(true);
    });
  }

  it('is as high as its room where all fits, and shows one band alone', () => {
    const { depths, equity } = made(60);
    expect(layOut(depths, equity, ROOM).height).toBe(ROOM.height);
    const zoomed = layOut(depths, equity, { ...ROOM, zoom: null });
    expect(zoomed.bands.map((band) => band.depth)).toEqual([null]);
    expect(zoomed.bands[0]?.pages.every((page) => depths[page] === null)).toBe(true);
  });

  it('is gone through with the arrow keys', () => {
    const { depths, equity } = made(60);
    const layout = layOut(depths, equity, ROOM);
    expect(neighbour(layout, undefined, 'ArrowDown')).toBe(0);
    const below = neighbour(layout, 0, 'ArrowDown') ?? -1;
    expect(depths[below]).toBe(1);
    expect(neighbour(layout, below, 'ArrowUp')).toBe(0);
    const next = neighbour(layout, below, 'ArrowRight') ?? -1;
    expect(next).not.toBe(below);
    expect(neighbour(layout, next, 'ArrowLeft')).toBe(below);
    expect(neighbour(layout, 0, 'ArrowLeft')).toBe(0);
  });
});
