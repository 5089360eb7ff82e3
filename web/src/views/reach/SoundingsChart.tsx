import { type KeyboardEvent, type MouseEvent, type RefObject, useEffect, useMemo, useRef, useState } from 'react';
import type { Schema } from '../../api/client.ts';
import { Depth as DepthBadge } from '../../parts/Depth.tsx';
import { count, number } from '../../parts/words.ts';
import { useTheme } from '../../window/theme.ts';
import { draw, drawMarks, readInk } from './draw.ts';
import { type BandBox, type ChartLayout, type Depth, layOut, neighbour, pageAt } from './layout.ts';

interface Props {
  chart: Schema['ReachChart'];
  /** Clicks to each page, with the tray and the plan. */
  depths: readonly Depth[];
  /** Pages that these move, and where they stand without. */
  moved: readonly { page: number; from: Depth }[];
  isFaded: (page: number) => boolean;
  /** The page whose facts are open, and the way to the page that is pointed at, or to that one. */
  chosen: number | undefined;
  way: readonly Schema['PageRef'][];
  /** What is known of the page that was pointed at last. */
  pointed: Schema['PageReach'] | undefined;
  point: (page: number | undefined) => void;
  choose: (page: number) => void;
  zoom: Depth | undefined;
  setZoom: (zoom: Depth | undefined) => void;
}

/** Width of the labels beside the bands. */
const LABELS = 132;

/** Bands by click depth from the entry pages down to the sea floor; each page a tick as wide as its equity. */
export function SoundingsChart(props: Props) {
  const { chart, depths, moved, isFaded, chosen, way, pointed, point, choose, zoom, setZoom } = props;
  const frame = useRef<HTMLDivElement>(null);
  const [theme] = useTheme();
  const room = useRoom(frame);
  const [at, setAt] = useState<number>();
  const layout = useMemo(
    () =>
      layOut(depths, chart.equity, {
        width: Math.max(80, room.width - LABELS),
        height: Math.max(120, room.height),
        zoom,
      }),
    [depths, chart.equity, room, zoom],
  );
  const places = useMemo(() => new Map(chart.numbers.map((page, place) => [page, place])), [chart.numbers]);
  const steps = useMemo(() => way.flatMap((page) => places.get(page.number) ?? []), [way, places]);
  const ground = useCanvas(
    layout,
    room.width - LABELS,
    (context) => {
      draw(context, layout, room.width - LABELS, readInk(context.canvas), { isFaded, moved });
    },
    [layout, isFaded, moved, theme],
  );
  const marks = useCanvas(
    layout,
    room.width - LABELS,
    (context) => {
      drawMarks(context, layout, room.width - LABELS, readInk(context.canvas), { at, chosen, way: steps });
    },
    [layout, at, chosen, steps, theme],
  );
  const go = (page: number | undefined) => {
    setAt(page);
    point(page);
  };
  const under = (event: MouseEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    return pageAt(layout, event.clientX - box.left, event.clientY - box.top);
  };
  const press = (event: KeyboardEvent) => {
    switch (event.key) {
      case 'ArrowLeft':
      case 'ArrowRight':
      case 'ArrowUp':
      case 'ArrowDown':
        go(neighbour(layout, at ?? chosen, event.key));
        break;
      case 'Enter':
        if (at !== undefined) {
          choose(at);
        }
        break;
      case 'z':
        if (at !== undefined) {
          setZoom(zoom === undefined ? (depths[at] ?? null) : undefined);
        }
        break;
      default:
        return;
    }
    event.preventDefault();
    event.stopPropagation();
  };
  const shown = at !== undefined && pointed?.page.number === chart.numbers[at] ? pointed : undefined;
  return (
    <div ref={frame} className="relative min-h-0 flex-1 overflow-y-auto overflow-x-hidden">
      <div className="relative" style={{ height: layout.height }}>
        {layout.bands.map((band) => (
          <Label
            key={String(band.depth)}
            band={band}
            now={chart.bands.find((one) => (one.depth ?? null) === band.depth)?.now}
            isZoomed={zoom !== undefined}
            press={() => setZoom(zoom === undefined ? band.depth : undefined)}
          />
        ))}
        <div className="absolute top-0 right-0" style={{ left: LABELS, height: layout.height }}>
          <canvas ref={ground} className="absolute inset-0" />
          <canvas ref={marks} className="pointer-events-none absolute inset-0" />
          {/* The same rows stand in the table; with the keys the chart is gone through tick by tick. */}
          <button
            type="button"
            data-testid="soundings"
            className="absolute inset-0 cursor-crosshair"
            aria-label={`Chart of ${count(depths.length, 'page')} by clicks from the entry page. Arrow keys go from page to page, Enter opens the facts, Z zooms.`}
            onMouseMove={(event) => go(under(event))}
            onMouseLeave={() => go(undefined)}
            onClick={(event) => {
              const page = event.detail === 0 ? at : under(event);
              if (page !== undefined) {
                choose(page);
              }
            }}
            onKeyDown={press}
          />
          {at !== undefined && shown && <Pointed layout={layout} at={at} reach={shown} width={room.width - LABELS} />}
        </div>
      </div>
      <p className="sr-only" role="status">
        {shown ? `${shown.page.title}, ${clicks(depths[at ?? 0] ?? null)}` : ''}
      </p>
    </div>
  );
}

export function clicks(depth: Depth): string {
  return depth === null ? 'out of reach' : count(depth, 'click');
}

function Label(props: { band: BandBox; now: number | undefined; isZoomed: boolean; press: () => void }) {
  const { band, now = 0, isZoomed, press } = props;
  const after = band.pages.length;
  const name = band.depth === null ? 'Out of reach' : band.depth === 0 ? 'Entry' : clicks(band.depth);
  return (
    <button
      type="button"
      aria-pressed={isZoomed}
      className="figures absolute left-0 flex flex-col items-start justify-center gap-0.5 border-b border-base-300 px-3 text-left hover:bg-base-200"
      style={{ top: band.top, height: band.height, width: LABELS }}
      title={isZoomed ? 'Show all bands' : 'Zoom into this band'}
      onClick={press}
    >
      <span className="flex items-center gap-1.5 whitespace-nowrap font-semibold">
        {band.depth === null ? <span className="text-accent">◆ {name}</span> : <DepthBadge depth={band.depth} />}
        {band.depth !== null && name.replace(/^\d+ /, '')}
      </span>
      <span className="whitespace-nowrap text-secondary">
        {now !== after && <s className="mr-1 decoration-1">{number(now)}</s>}
        <span className={now === after ? '' : 'font-semibold text-base-content'}>{count(after, 'page')}</span>
      </span>
    </button>
  );
}

/** The name of what is pointed at, with its way. */
function Pointed(props: { layout: ChartLayout; at: number; reach: Schema['PageReach']; width: number }) {
  const { layout, at, reach, width } = props;
  const { page, way, equity } = reach;
  const left = Math.min(Math.max(0, (layout.left[at] ?? 0) - 20), Math.max(0, width - 300));
  const below = (layout.top[at] ?? 0) + layout.tickHeight + 8;
  const isLow = below > layout.height - 120;
  return (
    <div
      className="pointer-events-none absolute z-10 w-72 rounded-box border border-base-300 bg-base-100 px-2.5 py-1.5 text-[0.8125rem] text-base-content shadow-lg"
      style={{ left, ...(isLow ? { bottom: layout.height - (layout.top[at] ?? 0) + 8 } : { top: below }) }}
    >
      <p className="truncate font-semibold">{page.title}</p>
      <p className="figures flex gap-2 text-secondary">
        <span className="truncate">{page.path}</span>
        {equity && <span className="ml-auto whitespace-nowrap">equity {equity.beside_average.toFixed(2)}</span>}
      </p>
      {way.length > 1 ? (
        <p className="mt-0.5 line-clamp-3">{way.map((step) => step.title).join(' › ')}</p>
      ) : (
        way.length === 0 && <p className="mt-0.5 text-accent">No way of links leads there.</p>
      )}
    </div>
  );
}

interface Size {
  width: number;
  height: number;
}

/** The size of the frame, as it changes. */
function useRoom(frame: RefObject<HTMLDivElement | null>): Size {
  const [size, setSize] = useState<Size>({ width: 800, height: 500 });
  useEffect(() => {
    const element = frame.current;
    if (!element) {
      return;
    }
    const observer = new ResizeObserver(() => {
      setSize((before) => {
        const after = { width: element.clientWidth, height: element.clientHeight };
        return before.width === after.width && before.height === after.height ? before : after;
      });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [frame]);
  return size;
}

/** A canvas as large as the chart, as sharp as the screen, painted when what it shows changed. */
function useCanvas(
  layout: ChartLayout,
  width: number,
  paint: (context: CanvasRenderingContext2D) => void,
  shows: readonly unknown[],
): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what it shows is named by whoever paints
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || width <= 0) {
      return;
    }
    const sharp = window.devicePixelRatio || 1;
    element.width = Math.round(width * sharp);
    element.height = Math.round(layout.height * sharp);
    element.style.width = `${width}px`;
    element.style.height = `${layout.height}px`;
    context.setTransform(sharp, 0, 0, sharp, 0, 0);
    paint(context);
  }, [...shows, width]);
  return canvas;
}
