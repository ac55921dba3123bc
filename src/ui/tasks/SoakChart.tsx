'use client';
import { count, quantity } from '@/core/format';
import { line, max, scaleLinear, type ScaleLinear } from 'd3';
import { useMemo } from 'react';
import type { SoakLevel, SoakPoint } from '@/core/tasks/soak';
import { useAxes } from '../charts/useAxes';
import { useWidth } from '../charts/useWidth';

const margin = { top: 22, right: 16, bottom: 30, left: 56 };
const height = 240;
/** Drops stand below the pace, in a band of their own. */
const dropsHeight = 36;

type Scale = ScaleLinear<number, number>;

/** Slots that dropped, in a band below the pace. */
function Drops({ points, most, x }: { points: readonly SoakPoint[]; most: number; x: Scale }) {
  if (most === 0) return null;
  return points.map(({ atS, seconds, dropped }) => {
    const [left, right] = [x((atS - seconds) / 60), x(atS / 60)];
    const tall = (dropped / most) * (dropsHeight - 8);
    return (
      dropped > 0 && (
        <rect
          key={atS}
          x={left}
          y={height - margin.bottom - tall}
          width={Math.max(1, right - left - 0.5)}
          height={tall}
          fill="var(--signal)"
        >
          <title>{count(dropped)} slots dropped</title>
        </rect>
      )
    );
  });
}

/** Levels by their medians, and where one goes over into the next. */
function Levels({ levels, x, y }: { levels: readonly SoakLevel[]; x: Scale; y: Scale }) {
  return (
    <>
      {levels.map(({ fromS, toS, framesPerSecond }) => (
        <line
          key={fromS}
          x1={x(fromS / 60)}
          x2={x(toS / 60)}
          y1={y(framesPerSecond)}
          y2={y(framesPerSecond)}
          stroke="var(--signal)"
          strokeWidth={2}
        >
          <title>Median from here to there: {quantity(framesPerSecond, 'frames/s', 1)}</title>
        </line>
      ))}
      {levels.slice(1).map(({ fromS }) => (
        <line
          key={fromS}
          x1={x(fromS / 60)}
          x2={x(fromS / 60)}
          y1={margin.top}
          y2={height - margin.bottom}
          stroke="var(--muted)"
          strokeDasharray="4 3"
        />
      ))}
    </>
  );
}

function Legend({
  needed,
  levels,
  mostDropped,
}: {
  needed: number | null;
  levels: number;
  mostDropped: number;
}) {
  return (
    <ul aria-label="Legend of the pace" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
      <li>
        thin:{' '}
        {needed === null ? 'frames made a second' : 'slots a second that its slowest stage could have done'}
      </li>
      <li>thick: levels, by their medians</li>
      {levels > 1 && <li>dashed: changes of level</li>}
      {needed !== null && <li>dotted: needed</li>}
      {mostDropped > 0 && <li>bars below: slots dropped, at most {count(mostDropped)} at a time</li>}
    </ul>
  );
}

/** Pace over a soak, with its levels and, of a playback, what was needed and what dropped. */
export function SoakChart({
  points,
  levels = [],
  needed,
}: {
  points: readonly SoakPoint[];
  levels?: readonly SoakLevel[];
  needed: number | null;
}) {
  const { ref, width } = useWidth();
  const { x, y } = useMemo(
    () => ({
      x: scaleLinear(
        [0, Math.max(0.1, (points.at(-1)?.atS ?? 0) / 60)],
        [margin.left, Math.max(margin.left + 1, width - margin.right)],
      ),
      y: scaleLinear(
        [0, Math.max(max(points, (point) => point.framesPerSecond) ?? 0, needed ?? 0) * 1.08 || 1],
        [height - margin.bottom - (needed === null ? 0 : dropsHeight), margin.top],
      ).nice(),
    }),
    [points, needed, width],
  );
  const axes = useAxes(x, y, width, height, margin);
  const path = line<SoakPoint>()
    .x(({ atS, seconds }) => x((atS - seconds / 2) / 60))
    .y(({ framesPerSecond }) => y(framesPerSecond));
  const mostDropped = max(points, ({ dropped }) => dropped) ?? 0;
  return (
    <div className="flex flex-col gap-1">
      <div ref={ref} className="border bg-surface">
        {width > 0 && (
          <svg role="img" aria-label="Pace over the soak" width={width} height={height} className="block">
            <g ref={axes} />
            <text x={6} y={13} fontSize="12" fill="var(--muted)">
              frames/s
            </text>
            <text x={width - margin.right} y={height - 2} textAnchor="end" fontSize="12" fill="var(--muted)">
              minutes
            </text>
            <Drops points={points} most={mostDropped} x={x} />
            <path d={path(points) ?? ''} fill="none" stroke="var(--ink)" strokeWidth={1.6} />
            <Levels levels={levels} x={x} y={y} />
            {needed !== null && (
              <line
                x1={margin.left}
                x2={width - margin.right}
                y1={y(needed)}
                y2={y(needed)}
                stroke="var(--ink)"
                strokeDasharray="2 4"
              />
            )}
          </svg>
        )}
      </div>
      <Legend needed={needed} levels={levels.length} mostDropped={mostDropped} />
    </div>
  );
}
