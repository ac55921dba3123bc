'use client';
import { area, line, max, scaleLinear, stack } from 'd3';
import { useMemo } from 'react';
import { taskStages, type TaskStage } from '@/core/tasks/pipeline';
import type { TaskWindows } from '@/core/tasks/windows';
import { useAxes } from '../charts/useAxes';
import { useWidth } from '../charts/useWidth';
import { stageStyles } from './words';

const margin = { top: 14, right: 16, bottom: 30, left: 56 };
const rateHeight = 170;
const coresHeight = 170;

interface RatePoint {
  readonly atS: number;
  readonly framesPerSecond: number;
}

/** Frames a second over the time of a task. */
export function TaskRateChart({
  points,
  steady = null,
}: {
  points: readonly RatePoint[];
  steady?: number | null;
}) {
  const { ref, width } = useWidth();
  const { x, y } = useMemo(
    () => ({
      x: scaleLinear(
        [0, Math.max(1, points.at(-1)?.atS ?? 1)],
        [margin.left, Math.max(margin.left + 1, width - margin.right)],
      ),
      y: scaleLinear(
        [0, (max(points, (point) => point.framesPerSecond) ?? 0) * 1.08 || 1],
        [rateHeight - margin.bottom, margin.top],
      ).nice(),
    }),
    [points, width],
  );
  const axes = useAxes(x, y, width, rateHeight, margin);
  const path = line<RatePoint>()
    .x(({ atS }) => x(atS))
    .y(({ framesPerSecond }) => y(framesPerSecond));
  return (
    <div ref={ref} className="border bg-surface">
      {width > 0 && (
        <svg
          role="img"
          aria-label="Frames a second over time"
          width={width}
          height={rateHeight}
          className="block"
        >
          <g ref={axes} />
          <text x={6} y={11} fontSize="12" fill="var(--muted)">
            frames/s
          </text>
          <text
            x={width - margin.right}
            y={rateHeight - 2}
            textAnchor="end"
            fontSize="12"
            fill="var(--muted)"
          >
            seconds
          </text>
          <path d={path(points) ?? ''} fill="none" stroke="var(--ink)" strokeWidth={1.8} />
          {steady !== null && (
            <line
              x1={margin.left}
              x2={width - margin.right}
              y1={y(steady)}
              y2={y(steady)}
              stroke="var(--muted)"
              strokeDasharray="4 3"
            >
              <title>Median of the steady part</title>
            </line>
          )}
        </svg>
      )}
    </div>
  );
}

type CoresAt = Readonly<Record<TaskStage, number>> & { readonly atS: number };

/** Cores that each stage had over time, on top of each other, up to those that there are. */
export function TaskCoresChart({ windows, cores }: { windows: TaskWindows; cores: number }) {
  const { ref, width } = useWidth();
  const rows = useMemo(() => coresOver(windows), [windows]);
  const { x, y } = useMemo(
    () => ({
      x: scaleLinear(
        [0, Math.max(1, rows.at(-1)?.atS ?? 1)],
        [margin.left, Math.max(margin.left + 1, width - margin.right)],
      ),
      y: scaleLinear([0, cores * 1.1], [coresHeight - margin.bottom, margin.top]),
    }),
    [rows, cores, width],
  );
  const axes = useAxes(x, y, width, coresHeight, margin);
  const layers = stack<CoresAt, TaskStage>().keys(taskStages)(rows);
  const shape = area<(typeof layers)[number][number]>()
    .x(({ data }) => x(data.atS))
    .y0(([low]) => y(Math.min(cores * 1.1, low)))
    .y1(([, high]) => y(Math.min(cores * 1.1, high)));
  return (
    <div className="flex flex-col gap-1">
      <div ref={ref} className="border bg-surface">
        {width > 0 && (
          <svg
            role="img"
            aria-label="Cores by stage over time"
            width={width}
            height={coresHeight}
            className="block"
          >
            {layers.map((layer) => (
              <path key={layer.key} d={shape(layer) ?? ''} fill={stageStyles[layer.key].colour} />
            ))}
            <g ref={axes} />
            <text x={6} y={11} fontSize="12" fill="var(--muted)">
              cores
            </text>
            <line
              x1={margin.left}
              x2={width - margin.right}
              y1={y(cores)}
              y2={y(cores)}
              stroke="var(--ink)"
              strokeDasharray="4 3"
            />
            <text
              x={width - margin.right}
              y={coresHeight - 2}
              textAnchor="end"
              fontSize="12"
              fill="var(--muted)"
            >
              seconds
            </text>
          </svg>
        )}
      </div>
      <ul aria-label="Legend of cores by stage" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
        {taskStages.map((stage) => (
          <li key={stage}>
            <span
              aria-hidden
              className="mr-1 inline-block h-3 w-4 align-[-1px]"
              style={{ background: stageStyles[stage].colour }}
            />
            {stageStyles[stage].word.toLowerCase()}
          </li>
        ))}
        <li>dashed: all cores of this rig</li>
      </ul>
    </div>
  );
}

function coresOver({ endUs, stages }: TaskWindows): CoresAt[] {
  return endUs.map((end, at) => {
    const length = Math.max(1, end - (endUs[at - 1] ?? 0));
    const used = Object.fromEntries(
      taskStages.map((stage) => [stage, (stages[stage].coreUs[at] ?? 0) / length]),
    ) as Record<TaskStage, number>;
    return { atS: end / 1e6, ...used };
  });
}
