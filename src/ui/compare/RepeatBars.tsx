'use client';
import { quantity, significant } from '@/core/format';
import { scaleLinear, type ScaleLinear } from 'd3';
import type { Against, Metric, Side } from '@/core/compare/compare';
import { useWidth } from '../charts/useWidth';
import { greatest } from '@/core/stats/extremes';

const barHeight = 40;
const labelWidth = 250;
const right = 90;

type Scale = ScaleLinear<number, number>;
const noFigures = { values: [], median: 0 };

/** A side's median as a bar, with its repeats. */
function SideBar({ name, of, x, y }: { name: string; of: Against | undefined; x: Scale; y: number }) {
  const { values, median } = of?.figures ?? noFigures;
  return (
    <g transform={`translate(0,${y})`}>
      <text x={8} y={22} fontSize={13} fill="var(--ink)">
        <title>{name}</title>
        {name.length > 34 ? `${name.slice(0, 20)} … ${name.slice(-11)}` : name}
      </text>
      {values.length > 0 && (
        <rect
          x={labelWidth}
          y={8}
          width={Math.max(1, x(median))}
          height={20}
          fill={of?.base === null ? 'var(--edge)' : 'var(--slot)'}
        />
      )}
      {values.map((value, index) => (
        <circle
          key={index}
          cx={labelWidth + x(value)}
          cy={18 + ((index % 5) - 2) * 3}
          r={3.2}
          fill="var(--surface)"
          stroke="var(--ink)"
          strokeWidth={1.4}
        />
      ))}
      <text
        x={labelWidth + x(greatest([...values], Math.max(median || 0, 0))) + 10}
        y={23}
        fontSize={13}
        fontFamily="var(--font-mono)"
        fill="var(--ink)"
      >
        {values.length === 0 ? 'no figure' : significant(median, 3)}
      </text>
    </g>
  );
}

function Ticks({ x, tall }: { x: Scale; tall: number }) {
  return (
    <g transform={`translate(${labelWidth},${26 + tall})`}>
      {x.ticks(5).map((tick) => (
        <g key={tick} transform={`translate(${x(tick)},0)`}>
          <line y1={-tall} y2={0} stroke="var(--line)" />
          <text y={13} fontSize={12} textAnchor="middle" fontFamily="var(--font-mono)" fill="var(--muted)">
            {tick}
          </text>
        </g>
      ))}
    </g>
  );
}

/** One bar for each side's median, every repeat as a dot on it, and in words which way is better. */
export function RepeatBars({
  sides,
  metric,
  rows,
}: {
  sides: readonly Side[];
  metric: Metric;
  /** Of each side. */ rows: readonly Against[];
}) {
  const { ref, width } = useWidth();
  const most = greatest(
    rows.flatMap(({ figures }) => [...figures.values]),
    0,
  );
  // Where all are 0 an axis of any length says so.
  const x = scaleLinear([0, most > 0 ? most : 1], [0, Math.max(10, width - labelWidth - right)]).nice();
  const height = sides.length * barHeight + 44;
  return (
    <figure className="m-0 border bg-surface" aria-label={`${metric.name} by side`}>
      <div ref={ref}>
        {width > 0 && (
          <svg
            role="img"
            aria-label={`${metric.name}: ${sides.map(({ name }, at) => `${name} ${quantity(significant(rows[at]?.figures.median ?? 0, 3), metric.unit)}`).join('; ')}. ${metric.better} is better.`}
            width={width}
            height={height}
            className="block"
          >
            <text x={labelWidth} y={16} fontSize={12} fill="var(--muted)">
              {metric.name}, {metric.unit}:{' '}
              {metric.better === 'lower' ? '← shorter bars are better' : 'longer bars are better →'}
            </text>
            {sides.map(({ id, name }, at) => (
              <SideBar key={id} name={name} of={rows[at]} x={x} y={26 + at * barHeight} />
            ))}
            <Ticks x={x} tall={sides.length * barHeight} />
          </svg>
        )}
      </div>
    </figure>
  );
}
