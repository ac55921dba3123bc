'use client';
import { area, curveStepBefore, line, scaleLinear } from 'd3';
import { slowStretches, unsteadyTimes } from '@/core/rig/pulse';
import type { Around } from '@/server/around';
import { megabytesPerSecond, percent } from '../format';

export type Sample = Around['samples'][number];

const laneHeight = 30;
const width = 1_000;
/** Rates below this fill no lane: a quiet disk shall not look busy. Bytes per second. */
const leastTop = 5e6;

interface Lane {
  readonly name: string;
  readonly top: number;
  readonly topWords: string;
  readonly own: (sample: Sample) => number | null;
  readonly others: (sample: Sample) => number | null;
}

function lanesOf(samples: readonly Sample[]): Lane[] {
  const most = (pick: (sample: Sample) => number | null) =>
    samples.reduce((high, sample) => Math.max(high, pick(sample) ?? 0), 0);
  const disk = Math.max(
    leastTop,
    most((sample) => (sample.trialDiskBytesPerSecond ?? 0) + (sample.othersDiskBytesPerSecond ?? 0)),
  );
  const network = Math.max(
    leastTop,
    most((sample) => sample.networkBytesPerSecond),
  );
  return [
    {
      name: 'processor',
      top: 1,
      topWords: percent(1, 0),
      own: (sample) => sample.trialLoad,
      others: (sample) => sample.othersLoad,
    },
    {
      name: 'disks',
      top: disk,
      topWords: megabytesPerSecond(disk),
      own: (sample) => sample.trialDiskBytesPerSecond,
      others: (sample) => sample.othersDiskBytesPerSecond,
    },
    {
      name: 'network',
      top: network,
      topWords: megabytesPerSecond(network),
      own: () => 0,
      others: (sample) => sample.networkBytesPerSecond,
    },
  ];
}

/** Least height of the pulse's lane, as long as before: a steady machine shall not look unsteady. */
const leastTimes = 1.5;

/** How long the machine took for the pulse's work against before the run, with the stretches in which it was slow. */
function PulseLane({
  samples,
  referenceUs,
  x,
}: {
  samples: readonly Sample[];
  referenceUs: number;
  x: (ms: number) => number;
}) {
  const told = samples.filter(({ pulseUs }) => pulseUs !== null);
  const times = ({ pulseUs }: Sample) => (pulseUs ?? 0) / referenceUs;
  const top = told.reduce((most, sample) => Math.max(most, times(sample)), leastTimes);
  const y = scaleLinear([0.75, top], [laneHeight - 1, 2]).clamp(true);
  const path = line<Sample>()
    .x(({ at }) => x(new Date(at).getTime()))
    .y((sample) => y(times(sample)))
    .curve(curveStepBefore);
  const slow = slowStretches(samples, referenceUs);
  const topWords = `${top.toFixed(2)}x as long`;
  return (
    <div className="relative border-b last:border-b-0">
      <svg
        role="img"
        aria-label={`Pulse of the machine: how long the same work took against before the run, up to ${topWords}. ${slow.length === 0 ? 'No slow stretch' : `${slow.length} slow ${slow.length === 1 ? 'stretch' : 'stretches'}`}.`}
        viewBox={`0 0 ${width} ${laneHeight}`}
        preserveAspectRatio="none"
        className="block w-full"
        style={{ height: laneHeight }}
      >
        {slow.map(({ fromMs, toMs, times: as }) => (
          <rect
            key={fromMs}
            data-testid="slow-stretch"
            x={x(fromMs)}
            width={Math.max(1, x(toMs) - x(fromMs))}
            y={0}
            height={laneHeight}
            fill="var(--signal)"
            opacity="0.35"
          >
            <title>{`The machine took ${as.toFixed(2)} times as long here as before the run.`}</title>
          </rect>
        ))}
        <line
          x1={0}
          x2={width}
          y1={y(1)}
          y2={y(1)}
          stroke="var(--edge)"
          strokeDasharray="2 4"
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={path(told) ?? ''}
          fill="none"
          stroke="var(--ink)"
          strokeWidth="1.3"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <span
        aria-hidden
        className="pointer-events-none absolute left-1 top-0 bg-surface/80 px-1 text-xs text-muted"
      >
        pulse
      </span>
      <span
        aria-hidden
        className="figure pointer-events-none absolute right-1 top-0 bg-surface/80 px-1 text-xs text-muted"
      >
        {topWords}
      </span>
    </div>
  );
}

/**
 * What the rig did over a stretch of time, in lanes: what the trial took filled, what others took as a line on top of it; and its pulse.
 * @param fromMs wall-clock ms of its beginning
 * @param referenceUs the pulse before the run, µs; null where none was taken
 */
export function TelemetryStrip({
  samples,
  fromMs,
  toMs,
  referenceUs,
}: {
  samples: readonly Sample[];
  fromMs: number;
  toMs: number;
  referenceUs: number | null;
}) {
  if (samples.length < 2) return null;
  const x = scaleLinear([fromMs, toMs], [0, width]);
  const at = (sample: Sample) => x(new Date(sample.at).getTime());
  const lanes = lanesOf(samples).filter(({ others }) => samples.some((sample) => others(sample) !== null));
  return (
    <div className="border-t" data-testid="telemetry">
      {lanes.map(({ name, top, topWords, own, others }) => {
        const y = scaleLinear([0, top], [laneHeight - 1, 2]).clamp(true);
        const sum = (sample: Sample) => (own(sample) ?? 0) + (others(sample) ?? 0);
        const filled = area<Sample>()
          .x(at)
          .y0(laneHeight - 1)
          .y1((sample) => y(own(sample) ?? 0))
          .curve(curveStepBefore);
        const outline = line<Sample>()
          .x(at)
          .y((sample) => y(sum(sample)))
          .curve(curveStepBefore);
        return (
          <div key={name} className="relative border-b last:border-b-0">
            <svg
              role="img"
              aria-label={`Load of the ${name}: trial and others over the run, up to ${topWords}`}
              viewBox={`0 0 ${width} ${laneHeight}`}
              preserveAspectRatio="none"
              className="block w-full"
              style={{ height: laneHeight }}
            >
              <path d={filled([...samples]) ?? ''} fill="var(--slot)" opacity="0.7" />
              <path
                d={outline([...samples]) ?? ''}
                fill="none"
                stroke="var(--signal-text)"
                strokeWidth="1.3"
                vectorEffect="non-scaling-stroke"
              />
            </svg>
            <span
              aria-hidden
              className="pointer-events-none absolute left-1 top-0 bg-surface/80 px-1 text-xs text-muted"
            >
              {name}
            </span>
            <span
              aria-hidden
              className="figure pointer-events-none absolute right-1 top-0 bg-surface/80 px-1 text-xs text-muted"
            >
              {topWords}
            </span>
          </div>
        );
      })}
      {referenceUs !== null && samples.some(({ pulseUs }) => pulseUs !== null) && (
        <PulseLane samples={samples} referenceUs={referenceUs} x={x} />
      )}
    </div>
  );
}

/** What the lanes' marks mean. */
export function TelemetryLegend() {
  return (
    <p className="text-xs text-muted">
      Rig: filled, what the trial took; line, with what others took on top. The network is told for the whole
      rig, not by process. Pulse: how long the same small piece of work took, against before the run; tinted
      where it took over {unsteadyTimes.p90} times as long.
    </p>
  );
}
