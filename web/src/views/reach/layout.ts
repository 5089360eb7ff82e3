// Where each page's tick stands on the chart of soundings. Knows nothing of the screen.

/** Clicks from where readers start; `null` for what cannot be reached. */
export type Depth = number | null;

/** One band of the chart, top to bottom. */
export interface BandBox {
  depth: Depth;
  top: number;
  height: number;
  /** Its pages, in the order in which they stand. */
  pages: number[];
}

/** Ticks of one line, left to right. */
interface Line {
  top: number;
  /** Pages by their places in the columns of the chart. */
  pages: number[];
}

export interface ChartLayout {
  bands: BandBox[];
  lines: Line[];
  /** By page. Pages that are not shown have no width. */
  left: Float32Array;
  top: Float32Array;
  width: Float32Array;
  tickHeight: number;
  /** Of the whole chart. */
  height: number;
}

export interface Room {
  width: number;
  height: number;
  /** The only band that is shown; `undefined` for all. */
  zoom?: Depth | undefined;
}

/** Space between ticks, between lines, and above and below the ticks of a band. */
const GAP = 2;
const LINE_GAP = 3;
const BAND_PADDING = 7;

/** A band is as high as its label, even with a single page. */
const LEAST_BAND = 38;

/** Widths of the tick of an average page that are tried, and heights, until all fit. */
const SCALES: readonly (readonly [number, number])[] = [
  [26, 26],
  [20, 22],
  [14, 18],
  [10, 16],
  [8, 14],
  [6, 12],
  [4.5, 11],
  [3.5, 10],
  [2.5, 8],
  [2, 7],
  [1.5, 6],
  [1, 5],
];
const LEAST_WIDTH = 1.5;
const MOST_WIDTH = 96;

/** Free at both ends of a line. */
const EDGE = 10;

/**
 * Puts pages into bands by their depth, line by line in their order; a tick is as wide as its page has equity, 1 being the
 * average. Taken is the largest scale by which all fits into the room; what fits by none is higher than it.
 * O(pages × scales).
 */
export function layOut(depths: readonly Depth[], equity: readonly number[], room: Room): ChartLayout {
  const byDepth = new Map<number, number[]>();
  depths.forEach((depth, page) => {
    const key = depth ?? Number.POSITIVE_INFINITY;
    const band = byDepth.get(key);
    if (band) {
      band.push(page);
    } else {
      byDepth.set(key, [page]);
    }
  });
  const keys = [...byDepth.keys()].sort((one, other) => one - other);
  const isShown = (key: number) => room.zoom === undefined || key === (room.zoom ?? Number.POSITIVE_INFINITY);
  const bands = keys
    .filter(isShown)
    .map((key) => ({ depth: Number.isFinite(key) ? key : null, pages: byDepth.get(key) ?? [] }));
  for (const [unit, tickHeight] of SCALES) {
    const layout = layOutBy(bands, depths.length, equity, room, unit, tickHeight);
    if (layout.height <= room.height || unit === SCALES.at(-1)?.[0]) {
      return layout;
    }
  }
  throw new Error('There is no scale.');
}

function layOutBy(
  bands: { depth: Depth; pages: number[] }[],
  pages: number,
  equity: readonly number[],
  room: Room,
  unit: number,
  tickHeight: number,
): ChartLayout {
  const layout: ChartLayout = {
    bands: [],
    lines: [],
    left: new Float32Array(pages),
    top: new Float32Array(pages),
    width: new Float32Array(pages),
    tickHeight,
    height: 0,
  };
  let top = 0;
  for (const band of bands) {
    const from = top;
    let line: Line = { top: top + BAND_PADDING, pages: [] };
    let left = EDGE;
    for (const page of band.pages) {
      const width = Math.min(MOST_WIDTH, Math.max(LEAST_WIDTH, unit * (equity[page] ?? 1)));
      if (left + width > room.width - EDGE && line.pages.length > 0) {
        layout.lines.push(line);
        line = { top: line.top + tickHeight + LINE_GAP, pages: [] };
        left = EDGE;
      }
      layout.left[page] = left;
      layout.top[page] = line.top;
      layout.width[page] = width;
      line.pages.push(page);
      left += width + GAP;
    }
    layout.lines.push(line);
    const height = Math.max(LEAST_BAND, line.top + tickHeight + BAND_PADDING - from);
    layout.bands.push({ depth: band.depth, top: from, height, pages: band.pages });
    top = from + height;
  }
  // What is left of the room goes to the bands alike, so that the chart fills it.
  const spare = layout.bands.length > 0 ? Math.max(0, room.height - top) / layout.bands.length : 0;
  if (spare > 0) {
    spread(layout, spare);
  }
  layout.height = Math.max(top, room.height);
  return layout;
}

function spread(layout: ChartLayout, spare: number): void {
  layout.bands.forEach((band, at) => {
    band.top += spare * at;
    band.height += spare;
    for (const page of band.pages) {
      layout.top[page] = (layout.top[page] ?? 0) + spare * (at + 0.5);
    }
  });
  for (const line of layout.lines) {
    const first = line.pages[0];
    line.top = first === undefined ? line.top : (layout.top[first] ?? line.top);
  }
}

/** The page whose tick is at a point, or next to it in its line; `undefined` between lines. O(log pages). */
export function pageAt(layout: ChartLayout, x: number, y: number): number | undefined {
  const lines = layout.lines;
  let [low, high] = [0, lines.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((lines[middle]?.top ?? 0) <= y + LINE_GAP / 2) {
      low = middle + 1;
    } else {
      high = middle;
    }
  }
  const line = lines[low - 1];
  if (!line || y > line.top + layout.tickHeight + LINE_GAP / 2) {
    return undefined;
  }
  let [from, to] = [0, line.pages.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if ((layout.left[line.pages[middle] ?? 0] ?? 0) <= x) {
      from = middle + 1;
    } else {
      to = middle;
    }
  }
  const page = line.pages[from - 1];
  const end = page === undefined ? 0 : (layout.left[page] ?? 0) + (layout.width[page] ?? 0);
  return page !== undefined && x <= end + 4 ? page : undefined;
}

/** The page that an arrow key goes to. O(bands), and O(pages of a band) up and down. */
export function neighbour(
  layout: ChartLayout,
  page: number | undefined,
  key: 'ArrowLeft' | 'ArrowRight' | 'ArrowUp' | 'ArrowDown',
): number | undefined {
  const at = layout.bands.findIndex((band) => page !== undefined && band.pages.includes(page));
  const band = layout.bands[at];
  if (!band || page === undefined) {
    return layout.bands[0]?.pages[0];
  }
  if (key === 'ArrowLeft' || key === 'ArrowRight') {
    return band.pages[band.pages.indexOf(page) + (key === 'ArrowRight' ? 1 : -1)] ?? page;
  }
  const other = layout.bands[at + (key === 'ArrowDown' ? 1 : -1)];
  if (!other) {
    return page;
  }
  // The tick that stands closest below or above.
  const x = layout.left[page] ?? 0;
  const distance = (one: number) => Math.abs((layout.left[one] ?? 0) - x);
  return other.pages.reduce((best, one) => (distance(one) < distance(best) ? one : best), other.pages[0] ?? page);
}
