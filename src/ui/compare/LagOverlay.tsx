'use client';
import { curveStepAfter, line, scaleLinear } from 'd3';
import { useEffect, useMemo, useState } from 'react';
import { pictureLine, playheadLine, valueAt, type ScrubRequest } from '@/core/scrub/analyse';
import type { Comparison } from '@/server/decide/comparisons';
import { callApi } from '../api';
import { useAxes } from '../charts/useAxes';
import { useWidth } from '../charts/useWidth';
import { SeriesMark, seriesInk } from '../timeline/LatencyPlot';
import { greatest } from '@/core/stats/extremes';

const height = 260;
const margin = { top: 12, right: 16, bottom: 34, left: 60 };
const mostLines = 6;

/** Distance in slots between playhead and picture, at each moment either moves. */
function gapLine(requests: readonly ScrubRequest[]): [number, number][] {
  const [playhead, picture] = [playheadLine(requests), pictureLine(requests)];
  const times = [...new Set([...playhead.timesMs, ...picture.timesMs])]
    .filter((time) => time >= (picture.timesMs[0] ?? Infinity))
    .sort((a, b) => a - b);
  return times.map((time) => [time / 1000, Math.abs(valueAt(playhead, time) - valueAt(picture, time))]);
}

interface GapLine {
  readonly id: string;
  readonly name: string;
  readonly points: readonly (readonly [number, number])[];
}

/** The distance over the gesture of each side, once its record is here. */
function useGapLines(scrubbed: Comparison['sides']): readonly GapLine[] {
  const [records, setRecords] = useState<Readonly<Record<string, readonly ScrubRequest[]>>>({});
  useEffect(() => {
    let stale = false;
    for (const { id, repeats } of scrubbed) {
      const trialId = repeats.find(({ excluded }) => excluded === null)?.trialId ?? '';
      void callApi('GET /api/trials/{id}', { ids: { id: trialId } }).then(
        ({ trial }) => {
          const requests = trial.kind === 'scrub' ? (trial.record?.requests ?? []) : [];
          if (!stale) setRecords((now) => ({ ...now, [id]: requests }));
        },
        () => undefined,
      );
    }
    return () => {
      stale = true;
    };
  }, [scrubbed]);
  return useMemo(
    () => scrubbed.map(({ id, name }) => ({ id, name, points: gapLine(records[id] ?? []) })),
    [scrubbed, records],
  );
}

function useScales(lines: readonly GapLine[], width: number) {
  return useMemo(() => {
    const points = lines.flatMap((one) => one.points);
    return {
      x: scaleLinear(
        [
          0,
          greatest(
            points.map(([time]) => time),
            1,
          ),
        ],
        [margin.left, Math.max(margin.left + 1, width - margin.right)],
      ),
      y: scaleLinear(
        [
          0,
          greatest(
            points.map(([, gap]) => gap),
            1,
          ),
        ],
        [height - margin.bottom, margin.top],
      ).nice(),
    };
  }, [lines, width]);
}

/** How far the picture was behind the playhead over the gesture, for each scrubbed side on one axis. */
export function LagOverlay({ sides }: { sides: Comparison['sides'] }) {
  const scrubbed = useMemo(
    () =>
      sides
        .filter(({ kind, repeats }) => kind === 'scrub' && repeats.some(({ excluded }) => excluded === null))
        .slice(0, mostLines),
    [sides],
  );
  const { ref, width } = useWidth();
  const lines = useGapLines(scrubbed);
  const { x, y } = useScales(lines, width);
  const axes = useAxes(x, y, width, height, margin);
  if (scrubbed.length === 0) return null;
  const path = line<readonly [number, number]>()
    .x(([time]) => x(time))
    .y(([, gap]) => y(gap))
    .curve(curveStepAfter);
  return (
    <section aria-label="Lag, overlaid">
      <h2>Picture behind the playhead, on one axis</h2>
      <div ref={ref} className="mt-1 border bg-surface">
        {width > 0 && (
          <svg
            role="img"
            aria-label="Distance between playhead and picture over the gesture"
            width={width}
            height={height}
            className="block"
          >
            <g ref={axes} />
            <text x={width - margin.right} y={height - 4} textAnchor="end" fontSize="12" fill="var(--muted)">
              seconds of the gesture
            </text>
            <text x={6} y={height - 4} fontSize="12" fill="var(--muted)">
              slots behind; lower is better
            </text>
            {lines.map(({ id, points }, index) => (
              <path
                key={id}
                d={path(points) ?? ''}
                fill="none"
                stroke={seriesInk(index)}
                strokeWidth="1.6"
                strokeDasharray={index % 2 === 1 ? '5 3' : undefined}
              />
            ))}
          </svg>
        )}
      </div>
      <ul className="mt-1 flex flex-wrap gap-x-5 text-sm">
        {lines.map(({ id, name }, index) => (
          <li key={id}>
            <SeriesMark index={index} /> {name}
            {index % 2 === 1 ? ' (dashed)' : ''}
          </li>
        ))}
      </ul>
    </section>
  );
}
