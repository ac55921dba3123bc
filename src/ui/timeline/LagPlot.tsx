'use client';
import { curveStepAfter, line, scaleLinear, symbol, symbolTimes } from 'd3';
import { useMemo } from 'react';
import { pictureLine, playheadLine, type LagLine, type ScrubRequest } from '@/core/scrub/analyse';
import { useAxes } from '../charts/useAxes';
import { useWidth } from '../charts/useWidth';
import { greatest, least } from '@/core/stats/extremes';

const height = 260;
const margin = { top: 12, right: 76, bottom: 34, left: 60 };

/** The mark of a position of which the decoder makes no picture. */
const cross = symbol(symbolTimes, 60)() ?? '';

/** Both lines, and the scales that hold them. */
function useLines(requests: readonly ScrubRequest[], width: number) {
  return useMemo(() => {
    const lines = { playhead: playheadLine(requests), picture: pictureLine(requests) };
    const endMs = greatest([...lines.playhead.timesMs.slice(-1), ...lines.picture.timesMs.slice(-1)], 1);
    const slots = [...lines.playhead.slots, ...lines.picture.slots];
    const [low, high] = [least(slots), greatest(slots)];
    return {
      ...lines,
      x: scaleLinear([0, endMs / 1000], [margin.left, Math.max(margin.left + 1, width - margin.right)]),
      y: scaleLinear([low, Math.max(low + 1, high)], [height - margin.bottom, margin.top]).nice(),
    };
  }, [requests, width]);
}

/** What a line is, behind its end; beside the other's word, not on it. */
function EndWord({ of, x, y, above }: { of: 'playhead' | 'picture'; x: number; y: number; above: boolean }) {
  return (
    <text
      x={x}
      y={y + (above ? -2 : 12)}
      fontSize="12"
      fill={of === 'picture' ? 'var(--ink)' : 'var(--muted)'}
    >
      {of}
    </text>
  );
}

/** Playhead and picture over a gesture, and the gap between them. */
export function LagPlot({ requests, label }: { requests: readonly ScrubRequest[]; label: string }) {
  const { ref, width } = useWidth();
  const { playhead, picture, x, y } = useLines(requests, width);
  const axes = useAxes(x, y, width, height, margin);
  const stepped = line<readonly [number, number]>()
    .x(([ms]) => x(ms / 1000))
    .y(([, slot]) => y(slot))
    .curve(curveStepAfter);
  const points = ({ timesMs, slots }: LagLine) => timesMs.map((ms, at) => [ms, slots[at] as number] as const);
  const gap = gapOf(playhead, picture)
    .map(([ms, a, b]) => `M${x(ms / 1000)},${y(a)}V${y(b)}`)
    .join('');
  const end = (of: LagLine) => y(of.slots.at(-1) ?? 0);
  const playheadAbove = end(playhead) < end(picture);
  const refused = requests.filter(({ end: became }) => became === 'refused');
  return (
    <div ref={ref} className="border bg-surface">
      {width > 0 && (
        <svg role="img" aria-label={label} width={width} height={height} className="block">
          <g ref={axes} />
          <text x={width - margin.right} y={height - 4} textAnchor="end" fontSize="12" fill="var(--muted)">
            seconds of the gesture
          </text>
          <text x={6} y={height - 4} fontSize="12" fill="var(--muted)">
            slot
          </text>
          <path d={gap} stroke="var(--signal-text)" strokeWidth="1" opacity="0.55" />
          <path
            d={stepped(points(playhead)) ?? ''}
            fill="none"
            stroke="var(--muted)"
            strokeWidth="1.2"
            strokeDasharray="4 2"
          />
          <path d={stepped(points(picture)) ?? ''} fill="none" stroke="var(--ink)" strokeWidth="1.8" />
          {refused.map(({ atMs, target }, at) => (
            <path
              key={at}
              transform={`translate(${x(atMs / 1000)},${y(target)})`}
              d={cross}
              stroke="var(--cause-media)"
              strokeWidth="2"
              fill="none"
            >
              <title>{`slot ${target}: could not be decoded`}</title>
            </path>
          ))}
          <EndWord of="playhead" x={width - margin.right + 6} y={end(playhead)} above={playheadAbove} />
          <EndWord of="picture" x={width - margin.right + 6} y={end(picture)} above={!playheadAbove} />
        </svg>
      )}
      {refused.length > 0 && (
        <p className="px-2 pb-1 text-xs text-muted">
          <svg aria-hidden width="12" height="12" viewBox="-6 -6 12 12" className="inline-block">
            <path d={cross} stroke="var(--cause-media)" strokeWidth="2" fill="none" />
          </svg>{' '}
          could not be decoded
        </p>
      )}
    </div>
  );
}

/** The distance between both at each moment one of them moves: [ms, slot, slot]. */
function gapOf(playhead: LagLine, picture: LagLine): [number, number, number][] {
  const result: [number, number, number][] = [];
  let at = 0;
  playhead.timesMs.forEach((ms, index) => {
    while (at + 1 < picture.timesMs.length && (picture.timesMs[at + 1] as number) <= ms) at++;
    const shown = picture.slots[at];
    if (shown !== undefined && (picture.timesMs[at] as number) <= ms)
      result.push([ms, playhead.slots[index] as number, shown]);
  });
  return result;
}
