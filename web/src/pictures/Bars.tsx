import { AxisBottom } from '@visx/axis';
import { Group } from '@visx/group';
import { scaleBand, scaleLinear } from '@visx/scale';
import { Bar } from '@visx/shape';
import type { RefObject } from 'react';

export interface BarRow {
  name: string;
  before: number;
  after: number;
}

interface Props {
  rows: readonly BarRow[];
  /** Whether there is anything after; else one bar stands for each row. */
  withAfter: boolean;
  width: number;
  /** What the picture shows, for whoever does not see it. */
  title: string;
  format: (value: number) => string;
  /** A value by which others are measured, and what it is. */
  mark?: { value: number; name: string };
  picture: RefObject<SVGSVGElement | null>;
}

const ROW = 26;
const FOOT = 26;
const FIGURES = 110;

/** Bars before and after, one pair for each row. */
export function Bars({ rows, withAfter, width, title, format, mark, picture }: Props) {
  const names = Math.min(220, Math.max(110, width * 0.28));
  const height = rows.length * ROW + FOOT + 8;
  const most = Math.max(mark?.value ?? 0, ...rows.flatMap((row) => [row.before, row.after]), Number.EPSILON);
  const x = scaleLinear<number>({ domain: [0, most], range: [0, Math.max(60, width - names - FIGURES)], nice: true });
  const y = scaleBand<number>({ domain: rows.map((_, at) => at), range: [4, rows.length * ROW + 4], padding: 0.25 });
  const thickness = y.bandwidth() / (withAfter ? 2 : 1);
  return (
    <svg ref={picture} width={width} height={height} role="img" aria-label={title} className="figures block">
      {rows.map((row, at) => {
        const top = y(at) ?? 0;
        return (
          <Group key={row.name} top={top}>
            <text
              x={names - 8}
              y={y.bandwidth() / 2}
              dy="0.35em"
              textAnchor="end"
              className="fill-base-content text-[0.8125rem]"
            >
              {shortened(row.name, names)}
              <title>{row.name}</title>
            </text>
            <Bar
              x={names}
              y={0}
              width={x(row.before)}
              height={thickness}
              className={withAfter ? 'fill-depth-2' : 'fill-depth-3'}
            />
            {withAfter && (
              <Bar x={names} y={thickness} width={x(row.after)} height={thickness} className="fill-depth-4" />
            )}
            <text
              x={names + Math.max(x(row.before), x(row.after)) + 6}
              y={y.bandwidth() / 2}
              dy="0.35em"
              className="fill-base-content text-[0.8125rem]"
            >
              {withAfter && format(row.before) !== format(row.after)
                ? `${format(row.before)} → ${format(row.after)}`
                : format(row.before)}
            </text>
          </Group>
        );
      })}
      {mark && (
        <Group left={names + x(mark.value)}>
          <line y1={0} y2={height - FOOT} strokeWidth={1} strokeDasharray="3 3" className="stroke-accent" />
          <title>{mark.name}</title>
        </Group>
      )}
      <AxisBottom
        left={names}
        top={height - FOOT}
        scale={x}
        numTicks={4}
        tickFormat={(value) => format(Number(value))}
        axisLineClassName="stroke-base-300"
        tickLineProps={{ className: 'stroke-base-300' }}
        tickLabelProps={{ className: 'fill-secondary text-[0.75rem]', textAnchor: 'middle' }}
      />
    </svg>
  );
}

function shortened(name: string, width: number): string {
  const most = Math.floor(width / 7);
  return name.length > most ? `${name.slice(0, most - 1)}…` : name;
}
