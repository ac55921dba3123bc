'use client';
import { quantity, significant } from '@/core/format';
import { scaleLinear } from 'd3';
import type { Against, Metric, Side } from '@/core/compare/compare';
import { useWidth } from '../charts/useWidth';
import { greatest } from '@/core/stats/extremes';

const barHeight = 40;
const labelWidth = 250;
const right = 90;

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
            {sides.map(({ id, name }, at) => {
              const { figures } = rows[at] ?? { figures: { values: [], median: 0 } };
              const y = 26 + at * barHeight;
              return (
                <g key={id} transform={`translate(0,${y})`}>
                  <text x={8} y={22} fontSize={13} fill="var(--ink)">
                    <title>{name}</title>
                    {name.length > 34 ? `${name.slice(0, 20)} … ${name.slice(-11)}` : name}
                  </text>
                  {figures.values.length > 0 && (
                    <rect
                      x={labelWidth}
                      y={8}
                      width={Math.max(1, x(figures.median))}
                      height={20}
                      fill={rows[at]?.base === null ? 'var(--edge)' : 'var(--slot)'}
                    />
                  )}
                  {figures.values.map((value, index) => (
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
                    x={labelWidth + x(greatest([...figures.values], Math.max(figures.median || 0, 0))) + 10}
                    y={23}
                    fontSize={13}
                    fontFamily="var(--font-mono)"
                    fill="var(--ink)"
                  >
                    {figures.values.length === 0 ? 'no figure' : significant(figures.median, 3)}
                  </text>
                </g>
              );
            })}
            <g transform={`translate(${labelWidth},${26 + sides.length * barHeight})`}>
              {x.ticks(5).map((tick) => (
                <g key={tick} transform={`translate(${x(tick)},0)`}>
                  <line y1={-sides.length * barHeight} y2={0} stroke="var(--line)" />
                  <text
                    y={13}
                    fontSize={12}
                    textAnchor="middle"
                    fontFamily="var(--font-mono)"
                    fill="var(--muted)"
                  >
                    {tick}
                  </text>
                </g>
              ))}
            </g>
          </svg>
        )}
      </div>
    </figure>
  );
}
