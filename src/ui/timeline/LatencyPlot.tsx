'use client';
import { quantity } from '@/core/format';
import {
  scaleLinear,
  symbol,
  symbolCircle,
  symbolCross,
  symbolDiamond,
  symbolSquare,
  symbolStar,
  symbolTriangle,
} from 'd3';
import { useMemo } from 'react';
import type { ScrubRequest } from '@/core/scrub/analyse';
import { useAxes } from '../charts/useAxes';
import { useWidth } from '../charts/useWidth';
import { greatest } from '@/core/stats/extremes';

export interface LatencySeries {
  readonly key: string;
  readonly name: string;
  readonly requests: readonly ScrubRequest[];
}

const height = 260;
const margin = { top: 12, right: 16, bottom: 34, left: 60 };
const shapes = [symbolCircle, symbolTriangle, symbolSquare, symbolDiamond, symbolCross, symbolStar];
const inks = [
  'var(--ink)',
  'var(--cause-process)',
  'var(--cause-read)',
  'var(--cause-decode)',
  'var(--cause-present)',
  'var(--muted)',
];

/** Colour of a series. */
export function seriesInk(index: number): string {
  return inks[index % inks.length] ?? 'var(--ink)';
}

/** The mark of a series: shape and colour. */
export function SeriesMark({ index }: { index: number }) {
  return (
    <svg aria-hidden width="12" height="12" viewBox="-6 -6 12 12" className="inline-block">
      <path d={symbol(shapes[index % shapes.length], 40)() ?? ''} fill={inks[index % inks.length]} />
    </svg>
  );
}

/** Every picture that was shown, and the scales that hold them. */
function usePoints(series: readonly LatencySeries[], width: number) {
  return useMemo(() => {
    const shown = series.flatMap(({ requests }, index) =>
      requests.flatMap(({ shownMs, atMs, fromKey, target, wanted, proved }) =>
        shownMs === null
          ? []
          : [
              {
                index,
                latencyMs: shownMs - atMs,
                fromKey,
                target,
                wrong: proved !== null && proved !== wanted,
              },
            ],
      ),
    );
    return {
      points: shown,
      x: scaleLinear(
        [
          0,
          greatest(
            shown.map(({ fromKey }) => fromKey),
            8,
          ),
        ],
        [margin.left, Math.max(margin.left + 1, width - margin.right)],
      ).nice(),
      y: scaleLinear(
        [
          0,
          greatest(
            shown.map(({ latencyMs }) => latencyMs),
            1,
          ) * 1.05,
        ],
        [height - margin.bottom, margin.top],
      ).nice(),
    };
  }, [series, width]);
}

/** How long each shown picture took, against how many frames lie between it and the key frame it is decoded from. */
export function LatencyPlot({ series, label }: { series: readonly LatencySeries[]; label: string }) {
  const { ref, width } = useWidth();
  const { points, x, y } = usePoints(series, width);
  const axes = useAxes(x, y, width, height, margin);
  return (
    <div>
      <div ref={ref} className="border bg-surface">
        {width > 0 && (
          <svg role="img" aria-label={label} width={width} height={height} className="block">
            <g ref={axes} />
            <text x={width - margin.right} y={height - 4} textAnchor="end" fontSize="12" fill="var(--muted)">
              frames from the key frame, in decode order
            </text>
            <text x={6} y={height - 4} fontSize="12" fill="var(--muted)">
              ms
            </text>
            {points.map(({ index, latencyMs, fromKey, target, wrong }, at) => (
              <path
                key={at}
                transform={`translate(${x(fromKey)},${y(latencyMs)})`}
                d={symbol(shapes[index % shapes.length], wrong ? 90 : 34)() ?? ''}
                fill={wrong ? 'var(--signal-text)' : inks[index % inks.length]}
                opacity="0.75"
              >
                <title>{`slot ${target}: ${quantity(latencyMs, 'ms', 1)}, ${fromKey} frames from its key frame${wrong ? ', wrong frame' : ''}`}</title>
              </path>
            ))}
          </svg>
        )}
      </div>
      {series.length > 1 && (
        <ul aria-label="Series" className="mt-1 flex flex-wrap gap-x-5 text-sm">
          {series.map(({ key, name }, index) => (
            <li key={key} className="flex items-center gap-1.5">
              <SeriesMark index={index} />
              {name}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
