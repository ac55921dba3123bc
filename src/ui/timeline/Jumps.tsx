'use client';
import { scaleLinear } from 'd3';
import { count, milliseconds, size } from '@/core/format';
import { greatest } from '@/core/stats/extremes';
import { jumpFigures, type Jump } from '@/core/timeline/jumps';
import type { Timeline } from '@/core/timeline/model';
import type { ShownFrame, ViewerState } from '@/engine/timeline/viewerSpec';

const shownBars = 60;
const [barWidth, height] = [6, 36];

const figure = (ms: number) => <span className="figure">{milliseconds(ms)}</span>;

/** How a frame came to the viewer, in words. */
function cameFrom({ from, volume, simulated, bytes }: ShownFrame, cold: boolean): string {
  if (from === 'kept') return 'decoded before, kept by the viewer';
  const read = `${size(bytes)} from ${volume}${simulated ? ' (simulated)' : ''}`;
  if (from === 'past') return `${read}, past the cache`;
  if (from === 'emptied') return `${read}, with the cache emptied of it before`;
  return cold
    ? `${read}, perhaps out of memory: its file system lets nobody pass the cache or empty it`
    : `${read}, through the cache: what lies there comes from memory`;
}

/** What the slot on screen took and where its frames came from, and how long jumps to slots have taken. */
export function Jumps({
  state,
  jumps,
  overtaken,
  timeline,
  timecodeAt,
}: {
  state: ViewerState | null;
  jumps: readonly Jump[];
  overtaken: number;
  timeline: Timeline;
  timecodeAt: (slot: number) => string;
}) {
  const slotMs = (1000 * timeline.rate.den) / timeline.rate.num;
  return (
    <div className="flex min-h-5 flex-col gap-1 text-xs text-muted">
      {state?.tookMs && <Took took={state.tookMs} state={state} slotMs={slotMs} timeline={timeline} />}
      <JumpBars jumps={jumps} overtaken={overtaken} slotMs={slotMs} timecodeAt={timecodeAt} />
    </div>
  );
}

function Took({
  took: { read, decode, process },
  state: { frames, cold },
  slotMs,
  timeline,
}: {
  took: NonNullable<ViewerState['tookMs']>;
  state: ViewerState;
  slotMs: number;
  timeline: Timeline;
}) {
  return (
    <div data-testid="took">
      <p>
        This slot took {figure(read + decode + process)} {cold ? 'cold' : 'warm'}: read {figure(read)}, decode{' '}
        {figure(decode)}, process {figure(process)}; a slot lasts {milliseconds(slotMs)}.
      </p>
      <ul>
        {frames.map((frame, layer) => (
          <li key={layer}>
            {timeline.media[frame.media]?.name ?? 'A clip'}, frame{' '}
            <span className="figure">{count(frame.frame)}</span>: {cameFrom(frame, cold)}.
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The last jumps as bars, against the length of a slot; what they took in all. */
function JumpBars({
  jumps,
  overtaken,
  slotMs,
  timecodeAt,
}: {
  jumps: readonly Jump[];
  overtaken: number;
  slotMs: number;
  timecodeAt: (slot: number) => string;
}) {
  const figures = jumpFigures(jumps);
  const last = jumps.at(-1);
  if (!figures || !last) return null;
  const shown = jumps.slice(-shownBars);
  const top = greatest(
    shown.map(({ latencyMs }) => latencyMs),
    slotMs * 1.2,
  );
  const y = scaleLinear([0, top], [0, height - 2]);
  return (
    <figure data-testid="jumps" className="flex flex-col-reverse gap-1">
      <figcaption>
        Last jump {figure(last.latencyMs)}, from key to picture. Of {count(jumps.length)}
        {overtaken > 0 ? ` shown (${count(overtaken)} overtaken)` : ''}: median {figure(figures.medianMs)}, 95
        of 100 within {figure(figures.p95Ms)}, worst {figure(figures.worstMs)}
        {figures.kept > 0 ? `; ${count(figures.kept)} kept from before (pale)` : ''}.
      </figcaption>
      <svg
        role="img"
        aria-label={`Latency of the last ${shown.length} jumps, up to ${milliseconds(top)}; the line is the length of a slot`}
        viewBox={`0 0 ${shownBars * barWidth} ${height}`}
        preserveAspectRatio="none"
        className="w-full border-b border-edge"
        style={{ height }}
      >
        {shown.map(({ slot, latencyMs, readMs, decodeMs, processMs, kept }, at) => (
          <rect
            key={at}
            x={at * barWidth}
            width={barWidth - 1}
            y={height - Math.max(1, y(latencyMs))}
            height={Math.max(1, y(latencyMs))}
            fill="var(--slot)"
            opacity={kept ? 0.4 : 1}
          >
            <title>
              {`${timecodeAt(slot)}: ${milliseconds(latencyMs)}; read ${milliseconds(readMs)}, decode ${milliseconds(decodeMs)}, process ${milliseconds(processMs)}${kept ? ', kept from before' : ''}`}
            </title>
          </rect>
        ))}
        <line
          x1={0}
          x2={shownBars * barWidth}
          y1={height - y(slotMs)}
          y2={height - y(slotMs)}
          stroke="var(--ink)"
          strokeDasharray="2 3"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
    </figure>
  );
}
