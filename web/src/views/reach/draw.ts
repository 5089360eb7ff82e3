// The chart of soundings on a canvas.

import type { ChartLayout, Depth } from './layout.ts';

/** The colours of the theme, as the canvas needs them. */
export interface Ink {
  bands: string[];
  ticks: string[];
  floor: string;
  lost: string;
  line: string;
  text: string;
}

/** Reads the colours of the theme. */
export function readInk(element: Element): Ink {
  const style = getComputedStyle(element);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  const depths = [0, 1, 2, 3, 4, 5];
  return {
    bands: depths.map((depth) => colour(`--depth-${depth}`)),
    ticks: depths.map((depth) => colour(`--depth-ink-${depth}`)),
    floor: colour('--color-base-200'),
    lost: colour('--color-accent'),
    line: colour('--color-base-300'),
    text: colour('--color-base-content'),
  };
}

const tint = (tints: string[], depth: Depth, lost: string) =>
  depth === null ? lost : (tints[Math.min(depth, 5)] ?? lost);

/** What is drawn beside the ticks. */
export interface Shown {
  /** By page: whether the filter leaves it. */
  isFaded: (page: number) => boolean;
  /** Pages that the tray or a plan moves, and where they stood before. */
  moved: readonly { page: number; from: Depth }[];
}

/** More lines from band to band would cover what they show. */
const MOST_LINES = 400;

/** Draws bands and ticks. O(pages). */
export function draw(
  context: CanvasRenderingContext2D,
  layout: ChartLayout,
  width: number,
  ink: Ink,
  shown: Shown,
): void {
  context.clearRect(0, 0, width, layout.height);
  const moved = new Map(shown.moved.map(({ page, from }) => [page, from]));
  for (const band of layout.bands) {
    context.fillStyle = tint(ink.bands, band.depth, ink.floor);
    context.fillRect(0, band.top, width, band.height);
    for (const isFaded of [true, false]) {
      context.fillStyle = tint(ink.ticks, band.depth, ink.lost);
      context.globalAlpha = isFaded ? 0.13 : band.depth === null ? 0.9 : 0.62;
      for (const page of band.pages) {
        if (shown.isFaded(page) === isFaded) {
          context.fillRect(layout.left[page] ?? 0, layout.top[page] ?? 0, layout.width[page] ?? 0, layout.tickHeight);
        }
      }
    }
    context.globalAlpha = 1;
    context.fillStyle = ink.line;
    context.fillRect(0, band.top + band.height - 1, width, 1);
  }
  drawMoves(context, layout, ink, moved);
}

/** What came nearer has a frame, and a line from the band where it stood. */
function drawMoves(context: CanvasRenderingContext2D, layout: ChartLayout, ink: Ink, moved: Map<number, Depth>): void {
  context.strokeStyle = ink.lost;
  context.fillStyle = ink.lost;
  let lines = 0;
  for (const [page, from] of moved) {
    const width = layout.width[page] ?? 0;
    if (width === 0) {
      continue;
    }
    const [left, top] = [layout.left[page] ?? 0, layout.top[page] ?? 0];
    context.lineWidth = 1.5;
    context.strokeRect(left - 1, top - 1, Math.max(width, 3) + 2, layout.tickHeight + 2);
    const before = layout.bands.find((band) => band.depth === from);
    if (before && lines < MOST_LINES) {
      lines += 1;
      const x = left + width / 2;
      const [start, end] = [before.top + before.height / 2, top + layout.tickHeight + 1];
      context.globalAlpha = 0.45;
      context.lineWidth = 1;
      context.setLineDash([3, 3]);
      context.beginPath();
      context.moveTo(x, start);
      context.lineTo(x, end);
      context.stroke();
      context.setLineDash([]);
      context.globalAlpha = 1;
    }
  }
}

/** Draws the tick that is pointed at, the one whose facts are open, and a way over ticks. */
export function drawMarks(
  context: CanvasRenderingContext2D,
  layout: ChartLayout,
  width: number,
  ink: Ink,
  marks: { at: number | undefined; chosen: number | undefined; way: readonly number[] },
): void {
  context.clearRect(0, 0, width, layout.height);
  const middle = (page: number): [number, number] => [
    (layout.left[page] ?? 0) + (layout.width[page] ?? 0) / 2,
    (layout.top[page] ?? 0) + layout.tickHeight / 2,
  ];
  const onChart = marks.way.filter((page) => (layout.width[page] ?? 0) > 0);
  if (onChart.length > 1) {
    for (const [colour, thickness] of [
      [ink.floor, 4],
      [ink.lost, 2],
    ] as const) {
      context.strokeStyle = colour;
      context.lineWidth = thickness;
      context.lineJoin = 'round';
      context.beginPath();
      onChart.forEach((page, step) => {
        const [x, y] = middle(page);
        if (step === 0) {
          context.moveTo(x, y);
        } else {
          context.lineTo(x, y);
        }
      });
      context.stroke();
    }
  }
  const ring = (page: number | undefined, thickness: number) => {
    if (page !== undefined && (layout.width[page] ?? 0) > 0) {
      context.strokeStyle = ink.text;
      context.lineWidth = thickness;
      const [left, top] = [layout.left[page] ?? 0, layout.top[page] ?? 0];
      context.strokeRect(left - 2, top - 2, Math.max(layout.width[page] ?? 0, 2) + 4, layout.tickHeight + 4);
    }
  };
  for (const page of onChart) {
    ring(page, 1.5);
  }
  ring(marks.chosen, 2.5);
  ring(marks.at, 2);
}
