'use client';
import { duration, percent } from '@/core/format';
import { max, range, scaleBand, scaleLinear, type ScaleBand, type ScaleLinear } from 'd3';
import { useMemo } from 'react';
import { openingNouns, openingParts, type OpeningPart, type OpeningRecord } from '@/core/tasks/opening';
import { useWidth } from '../charts/useWidth';

const margin = { top: 20, right: 16, bottom: 34, left: 64 };
const laneHeight = 34;

/** Parts of opening, with the colour that they have in picture and table. */
export const partColours: Readonly<Record<OpeningPart | 'first' | 'read', string>> = {
  read: 'var(--cause-read)',
  first: 'var(--cause-process)',
  header: 'var(--stage-write)',
  picture: 'var(--cause-process)',
  pictures: 'var(--cause-decode)',
  sound: 'var(--stage-encode)',
};

interface Step {
  readonly part: OpeningPart | 'first';
  readonly lane: number;
  readonly name: string;
  readonly fromMs: number;
  readonly toMs: number;
  readonly readMs: number;
}

function Bar({
  part,
  lane,
  name,
  fromMs,
  toMs,
  readMs,
  x,
  y,
}: Step & { readonly x: ScaleLinear<number, number>; readonly y: ScaleBand<number> }) {
  const waited = toMs > fromMs ? Math.min(1, readMs / (toMs - fromMs)) : 0;
  const [left, top] = [x(fromMs), y(lane) ?? 0];
  const wide = Math.max(0.5, x(toMs) - left - 0.5);
  const noun = openingNouns[part].name.toLowerCase();
  return (
    <g>
      <rect x={left} y={top} width={wide} height={y.bandwidth()} fill={partColours[part]} />
      <rect
        x={left}
        y={top + y.bandwidth() * (1 - waited)}
        width={wide}
        height={y.bandwidth() * waited}
        fill={partColours.read}
      />
      <title>
        {part === 'first' ? name : `${name}, ${noun}`}: {duration(toMs - fromMs)}, of which{' '}
        {percent(waited, 0)} waiting for bytes
      </title>
    </g>
  );
}

/** When the first picture stood. */
function FirstPicture({
  atMs,
  x,
  width,
  height,
}: {
  readonly atMs: number;
  readonly x: number;
  readonly width: number;
  readonly height: number;
}) {
  const isLate = x > width / 2;
  return (
    <g transform={`translate(${x},0)`}>
      <line y1={margin.top - 4} y2={height - margin.bottom} stroke="var(--ink)" strokeDasharray="4 3" />
      <text x={isLate ? -4 : 4} y={12} textAnchor={isLate ? 'end' : 'start'} fontSize="12" fill="var(--ink)">
        first picture, {duration(atMs)}
      </text>
    </g>
  );
}

function Legend({ shown }: { readonly shown: ReadonlySet<Step['part']> }) {
  return (
    <ul aria-label="Legend of what was done" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
      {(['first', ...openingParts, 'read'] as const)
        .filter((part) => part === 'read' || shown.has(part))
        .map((part) => (
          <li key={part}>
            <span
              aria-hidden
              className="mr-1 inline-block h-3 w-4 align-[-1px]"
              style={{ background: partColours[part] }}
            />
            {openingNouns[part].name.toLowerCase()}
            {part === 'read' && ', as a share of its height'}
          </li>
        ))}
    </ul>
  );
}

/** What each lane did when: below, what of it was waiting for bytes. */
export function OpeningChart({ record: { clips, first, lanes } }: { record: OpeningRecord }) {
  const { ref, width } = useWidth();
  const bars = useMemo(
    () => [
      ...(first ? [{ part: 'first' as const, lane: 0, name: 'First picture', ...first }] : []),
      ...clips.flatMap((clip) =>
        openingParts.flatMap((part) => {
          const step = clip[part];
          return step ? [{ part, lane: clip.lane ?? 0, name: clip.name, ...step }] : [];
        }),
      ),
    ],
    [clips, first],
  );
  const height = margin.top + lanes * laneHeight + margin.bottom;
  const endMs = max(bars, ({ toMs }) => toMs) ?? 1;
  const x = scaleLinear([0, endMs], [margin.left, Math.max(margin.left + 1, width - margin.right)]);
  const y = scaleBand(range(lanes), [margin.top, height - margin.bottom]).paddingInner(0.25);
  return (
    <div className="flex flex-col gap-1">
      <div ref={ref} className="border bg-surface">
        {width > 0 && (
          <svg
            role="img"
            aria-label="What was done when, by clips at a time"
            width={width}
            height={height}
            className="block"
          >
            {x.ticks(Math.max(2, Math.floor(width / 120))).map((ms) => (
              <g key={ms} transform={`translate(${x(ms)},0)`}>
                <line y1={margin.top} y2={height - margin.bottom} stroke="var(--line)" />
                <text y={height - margin.bottom + 14} textAnchor="middle" fontSize="12" fill="var(--muted)">
                  {duration(ms)}
                </text>
              </g>
            ))}
            {range(lanes).map((lane) => (
              <text
                key={lane}
                x={margin.left - 8}
                y={(y(lane) ?? 0) + y.bandwidth() / 2 + 4}
                textAnchor="end"
                fontSize="12"
                fill="var(--muted)"
              >
                {lane === 0 ? '1st' : lane === 1 ? '2nd' : lane === 2 ? '3rd' : `${lane + 1}th`}
              </text>
            ))}
            {bars.map((bar) => (
              <Bar key={`${bar.part} ${bar.fromMs} ${bar.name}`} {...bar} x={x} y={y} />
            ))}
            {first && <FirstPicture atMs={first.toMs} x={x(first.toMs)} width={width} height={height} />}
          </svg>
        )}
      </div>
      <Legend shown={new Set(bars.map(({ part }) => part))} />
    </div>
  );
}
