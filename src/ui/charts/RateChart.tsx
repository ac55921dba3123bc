'use client';
import { line, max, scaleLinear } from 'd3';
import { useMemo } from 'react';
import { useAxes } from './useAxes';
import { useWidth } from './useWidth';

/** Rates of one direction of one repeat over its own time. */
export interface RateCurve {
  readonly key: string;
  readonly write: boolean;
  /** Seconds from the trial's begin to the repeat's; 0 while it is not known. */
  readonly beganSeconds: number;
  /** Seconds from the repeat's begin, and bytes per second. */
  readonly points: readonly (readonly [number, number])[];
}

interface RateChartProps {
  readonly curves: readonly RateCurve[];
  /** Level that is written beside the chart, bytes per second. */
  readonly sustained?: number | null;
  /** When a burst ended, seconds. */
  readonly burstEnd?: number | null;
  /** When other load disturbed the trial: seconds from its begin. */
  readonly disturbed?: readonly (readonly [number, number])[];
  readonly label: string;
}

const height = 240;
const margin = { top: 12, right: 92, bottom: 34, left: 56 };

/** Time and rates, as much as the curves and the sustained rate need. */
function useScales(curves: readonly RateCurve[], width: number, sustained: number | null) {
  return useMemo(() => {
    const points = curves.flatMap((curve) => curve.points);
    return {
      x: scaleLinear(
        [0, Math.max(1, max(points, ([seconds]) => seconds) ?? 1)],
        [margin.left, Math.max(margin.left + 1, width - margin.right)],
      ),
      y: scaleLinear(
        [0, (Math.max(sustained ?? 0, max(points, ([, rate]) => rate) ?? 0) / 1e6) * 1.08 || 1],
        [height - margin.bottom, margin.top],
      ).nice(),
    };
  }, [curves, width, sustained]);
}

function BurstEnd({ x }: { x: number }) {
  return (
    <g>
      <line
        x1={x}
        x2={x}
        y1={margin.top}
        y2={height - margin.bottom}
        stroke="var(--signal-text)"
        strokeDasharray="3 3"
      />
      <text x={x + 5} y={margin.top + 11} fontSize="12" fill="var(--signal-text)">
        burst ends
      </text>
    </g>
  );
}

function Sustained({ y, right }: { y: number; right: number }) {
  return (
    <g>
      <line x1={margin.left} x2={right} y1={y} y2={y} stroke="var(--cause-read)" strokeWidth="1.5" />
      <text x={right + 6} y={y + 4} fontSize="12" fill="var(--cause-read)">
        sustained
      </text>
    </g>
  );
}

/** Throughput over time: reading as a full line, writing as a dashed one; the last repeat stands out. */
export function RateChart({
  curves,
  sustained = null,
  burstEnd = null,
  disturbed = [],
  label,
}: RateChartProps) {
  const { ref, width } = useWidth();
  const { x, y } = useScales(curves, width, sustained);
  const axes = useAxes(x, y, width, height, margin);
  const path = line<readonly [number, number]>()
    .x(([seconds]) => x(seconds))
    .y(([, rate]) => y(rate / 1e6));
  const newest = {
    read: curves.findLast((curve) => !curve.write),
    write: curves.findLast((curve) => curve.write),
  };
  const last = newest.read ?? newest.write;
  const lastEnd = last?.points.at(-1)?.[0] ?? 0;
  const disturbedSpans = disturbed
    .map(
      ([from, to]) =>
        [
          Math.max(0, from - (last?.beganSeconds ?? 0)),
          Math.min(lastEnd, to - (last?.beganSeconds ?? 0)),
        ] as const,
    )
    .filter(([from, to]) => to > from);
  return (
    <div ref={ref} className="border bg-surface">
      {width > 0 && (
        <svg role="img" aria-label={label} width={width} height={height} className="block">
          <g ref={axes} />
          <text x={width - margin.right} y={height - 4} textAnchor="end" fontSize="12" fill="var(--muted)">
            seconds of the repeat
          </text>
          <text x={6} y={height - 4} fontSize="12" fill="var(--muted)">
            MB/s
          </text>
          {burstEnd !== null && burstEnd > 0 && <BurstEnd x={x(burstEnd)} />}
          {disturbedSpans.map(([from, to]) => (
            <rect
              key={from}
              x={x(from)}
              y={height - margin.bottom - 5}
              width={Math.max(2, x(to) - x(from))}
              height={5}
              fill="var(--signal-text)"
            >
              <title>other load disturbed the last repeat here</title>
            </rect>
          ))}
          {curves.map((curve) => {
            const isNewest = curve === newest.read || curve === newest.write;
            return (
              <path
                key={curve.key}
                d={path(curve.points) ?? ''}
                fill="none"
                stroke={isNewest ? 'var(--ink)' : 'var(--slot)'}
                strokeWidth={isNewest ? 1.8 : 1}
                strokeDasharray={curve.write ? '5 3' : undefined}
              />
            );
          })}
          {sustained !== null && <Sustained y={y(sustained / 1e6)} right={width - margin.right} />}
        </svg>
      )}
    </div>
  );
}
