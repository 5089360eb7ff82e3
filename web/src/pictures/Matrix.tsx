import { Group } from '@visx/group';
import { scaleBand, scaleLinear } from '@visx/scale';
import type { RefObject } from 'react';

export interface MatrixCell {
  from: number;
  to: number;
  value: number;
}

interface Props {
  names: readonly string[];
  cells: readonly MatrixCell[];
  width: number;
  /** What the picture shows, for whoever does not see it. */
  title: string;
  picture: RefObject<SVGSVGElement | null>;
  choose: (cell: { from: number; to: number }) => void;
}

const HEAD = 120;
const MOST_CELL = 64;

/** From each row to each column, the darker the more; each row is measured by its largest cell. */
export function Matrix({ names, cells, width, title, picture, choose }: Props) {
  const side = Math.min(190, Math.max(100, width * 0.22));
  const cell = Math.min(MOST_CELL, Math.max(14, (width - side - 12) / Math.max(1, names.length)));
  const extent = cell * names.length;
  const height = HEAD + Math.min(cell, 44) * names.length + 4;
  const x = scaleBand<number>({ domain: names.map((_, at) => at), range: [0, extent], padding: 0.06 });
  const y = scaleBand<number>({ domain: names.map((_, at) => at), range: [0, height - HEAD - 4], padding: 0.06 });
  const most = names.map((_, row) =>
    Math.max(1, ...cells.filter(({ from }) => from === row).map(({ value }) => value)),
  );
  return (
    <svg ref={picture} width={width} height={height} role="img" aria-label={title} className="figures block">
      {names.map((name, at) => (
        <g key={name}>
          <text
            transform={`translate(${side + (x(at) ?? 0) + x.bandwidth() / 2}, ${HEAD - 8}) rotate(-40)`}
            className="fill-base-content text-[0.8125rem]"
          >
            {name.length > 18 ? `${name.slice(0, 17)}…` : name}
          </text>
          <text
            x={side - 8}
            y={HEAD + (y(at) ?? 0) + y.bandwidth() / 2}
            dy="0.35em"
            textAnchor="end"
            className="fill-base-content text-[0.8125rem]"
          >
            {name.length > side / 7 ? `${name.slice(0, Math.floor(side / 7) - 1)}…` : name}
          </text>
        </g>
      ))}
      <Group left={side} top={HEAD}>
        {cells.map(({ from, to, value }) => {
          const step = tintOf(value / (most[from] ?? 1));
          return (
            // The same figures stand in the table below, where each can be pressed with the keys.
            // biome-ignore lint/a11y/noStaticElementInteractions: see the table
            <g key={`${from}-${to}`} className="cursor-pointer" onClick={() => choose({ from, to })}>
              <rect x={x(to)} y={y(from)} width={x.bandwidth()} height={y.bandwidth()} className={TINTS[step]} />
              {x.bandwidth() > 22 && (
                <text
                  x={(x(to) ?? 0) + x.bandwidth() / 2}
                  y={(y(from) ?? 0) + y.bandwidth() / 2}
                  dy="0.35em"
                  textAnchor="middle"
                  className={`text-[0.75rem] ${INKS[step]}`}
                >
                  {value}
                </text>
              )}
              <title>{`${names[from]} → ${names[to]}: ${value}`}</title>
            </g>
          );
        })}
        {names.map((name, at) => (
          <rect
            key={name}
            x={x(at)}
            y={y(at)}
            width={x.bandwidth()}
            height={y.bandwidth()}
            strokeWidth={1.5}
            className="pointer-events-none fill-none stroke-base-content"
          />
        ))}
      </Group>
    </svg>
  );
}

const TINTS = ['fill-depth-0', 'fill-depth-1', 'fill-depth-2', 'fill-depth-3', 'fill-depth-4', 'fill-depth-5'];
const INKS = [
  'fill-depth-ink-0',
  'fill-depth-ink-1',
  'fill-depth-ink-2',
  'fill-depth-ink-3',
  'fill-depth-ink-4',
  'fill-depth-ink-5',
];

/** The tint of a share from 0 to 1. */
function tintOf(share: number): number {
  return Math.round(scaleLinear<number>({ domain: [0, 1], range: [0, TINTS.length - 1], clamp: true })(share));
}
