'use client';
import { fixed, megabytesPerSecond, memory, percent, quantity, times } from '@/core/format';
import { area, curveStepBefore, extent, line, scaleLinear } from 'd3';
import type { ReactNode } from 'react';
import { slowStretches, unsteadyTimes } from '@/core/rig/pulse';
import type { Around } from '@/server/trials/around';

export type Sample = Around['samples'][number];

const laneHeight = 30;
const width = 1_000;
/** Rates below this fill no lane: a quiet disk shall not look busy. Bytes per second. */
const leastTop = 5e6;

/** Memory below this fills no lane, bytes. */
const leastMemoryTop = 2 ** 26;

/** What others took besides the trial; null where nothing is told of either. */
function besides(all: number | null, trial: number | null): number | null {
  return all === null ? trial && 0 : Math.max(0, all - (trial ?? 0));
}

interface Lane {
  readonly name: string;
  /** What it shows, in words. */
  readonly whole: string;
  readonly top: number;
  readonly topWords: string;
  readonly own: (sample: Sample) => number | null;
  readonly others: (sample: Sample) => number | null;
  /** Where the line runs; absent: on top of both. */
  readonly line?: (sample: Sample) => number | null;
}

/** An engine of the graphics, which is told for the trial alone. @param work what it does, as "decode" */
function engineLane(work: string, own: Lane['own']): Lane {
  return {
    name: `${work} engine`,
    whole: `Load of the engine that ${work}s, by the trial over the run`,
    top: 1,
    topWords: percent(1, 0),
    own,
    others: (sample) => besides(null, own(sample)),
  };
}

/** The most of what a lane shows, or the least that its top stands for. */
function topOf(
  samples: readonly Sample[],
  picks: readonly ((sample: Sample) => number | null)[],
  floor = leastTop,
): number {
  return samples.reduce(
    (high, sample) => picks.reduce((most, pick) => Math.max(most, pick(sample) ?? 0), high),
    floor,
  );
}

const processorLane: Lane = {
  name: 'processor',
  whole: 'Load of the processor: trial and others over the run',
  top: 1,
  topWords: percent(1, 0),
  own: (sample) => sample.trialLoad,
  others: (sample) => sample.othersLoad,
};

const disksLane = (disk: number): Lane => ({
  name: 'disks',
  whole: 'Load of the disks: trial and others over the run',
  top: disk,
  topWords: megabytesPerSecond(disk),
  own: (sample) => sample.trialDiskBytesPerSecond,
  others: (sample) => sample.othersDiskBytesPerSecond,
});

const networkLane = (network: number): Lane => ({
  name: 'network',
  whole: 'Load of the network over the run',
  top: network,
  topWords: megabytesPerSecond(network),
  own: () => 0,
  others: (sample) => sample.networkBytesPerSecond,
});

const serverLane = (link: number): Lane => ({
  name: 'server',
  whole: 'What the trial read and wrote, and what passed the interface to the server, over the run',
  top: link,
  topWords: megabytesPerSecond(link),
  own: (sample) => sample.trialMovedBytesPerSecond,
  others: (sample) => sample.linkBytesPerSecond,
  // Less than the trial read where the system's cache gave a part.
  line: (sample) => sample.linkBytesPerSecond,
});

const graphicsLanes: readonly Lane[] = [
  {
    name: 'graphics',
    whole: 'Load of the graphics: trial, and all that used them, over the run',
    top: 1,
    topWords: percent(1, 0),
    own: (sample) => sample.trialGraphicsLoad,
    others: ({ graphicsLoad, trialGraphicsLoad }) => besides(graphicsLoad, trialGraphicsLoad),
  },
  engineLane('decode', ({ trialDecodeEngineLoad }) => trialDecodeEngineLoad),
  engineLane('encode', ({ trialEncodeEngineLoad }) => trialEncodeEngineLoad),
];

const graphicsMemoryLane = (graphicsMemory: number): Lane => ({
  name: 'graphics memory',
  whole: 'Memory of the graphics: taken by the trial, and by all, over the run',
  top: graphicsMemory,
  topWords: memory(graphicsMemory),
  own: (sample) => sample.trialGraphicsMemoryBytes,
  others: ({ graphicsMemoryBytes, trialGraphicsMemoryBytes }) =>
    besides(graphicsMemoryBytes, trialGraphicsMemoryBytes),
});

const heldBackLane: Lane = {
  name: 'held back',
  whole:
    'Of the time in which the trial was ready to run, that in which the system held it to its share of the cores',
  top: 1,
  topWords: percent(1, 0),
  own: () => 0,
  // Where no share is set for it there is nothing to tell.
  others: (sample) => sample.heldShare || null,
};

const lanesOf = (samples: readonly Sample[]): Lane[] => [
  processorLane,
  disksLane(
    topOf(samples, [
      (sample) => (sample.trialDiskBytesPerSecond ?? 0) + (sample.othersDiskBytesPerSecond ?? 0),
    ]),
  ),
  networkLane(topOf(samples, [(sample) => sample.networkBytesPerSecond])),
  serverLane(
    topOf(samples, [(sample) => sample.linkBytesPerSecond, (sample) => sample.trialMovedBytesPerSecond]),
  ),
  ...graphicsLanes,
  graphicsMemoryLane(
    topOf(
      samples,
      [(sample) => sample.graphicsMemoryBytes, (sample) => sample.trialGraphicsMemoryBytes],
      leastMemoryTop,
    ),
  ),
  heldBackLane,
];

/** A lane with its name and what its top stands for. */
function LaneFrame({
  name,
  topWords,
  label,
  children,
}: {
  name: string;
  topWords: string;
  /** What it shows, in words. */
  label: string;
  children: ReactNode;
}) {
  const corner = 'pointer-events-none absolute top-0 bg-surface/80 px-1 text-xs text-muted';
  return (
    <div className="relative border-b last:border-b-0">
      <svg
        role="img"
        aria-label={label}
        viewBox={`0 0 ${width} ${laneHeight}`}
        preserveAspectRatio="none"
        className="block w-full"
        style={{ height: laneHeight }}
      >
        {children}
      </svg>
      <span aria-hidden className={`${corner} left-1`}>
        {name}
      </span>
      <span aria-hidden className={`figure ${corner} right-1`}>
        {topWords}
      </span>
    </div>
  );
}

/** A stretch that is marked in its lane. */
function Mark({ from, to, testId, words }: { from: number; to: number; testId: string; words: string }) {
  return (
    <rect
      data-testid={testId}
      x={from}
      width={Math.max(1, to - from)}
      y={0}
      height={laneHeight}
      fill="var(--signal)"
      opacity="0.35"
    >
      <title>{words}</title>
    </rect>
  );
}

type At = (sample: Sample) => number;

/** The line of a figure over the time; samples that do not tell it are left out. */
function CourseLine({
  samples,
  at,
  value,
  y,
}: {
  samples: readonly Sample[];
  at: At;
  value: (sample: Sample) => number | null;
  y: (value: number) => number;
}) {
  const path = line<Sample>()
    .x(at)
    .y((sample) => y(value(sample) ?? 0))
    .curve(curveStepBefore);
  return (
    <path
      d={path(samples.filter((sample) => value(sample) !== null)) ?? ''}
      fill="none"
      stroke="var(--ink)"
      strokeWidth="1.3"
      vectorEffect="non-scaling-stroke"
    />
  );
}

/** Least height of the pulse's lane, as long as before: a steady machine shall not look unsteady. */
const leastTimes = 1.5;

/** How long the machine took for the pulse's work against before the run, with the stretches in which it was slow. */
function PulseLane({
  samples,
  referenceUs,
  x,
  at,
}: {
  samples: readonly Sample[];
  referenceUs: number;
  x: (ms: number) => number;
  at: At;
}) {
  const asLong = ({ pulseUs }: Sample) => (pulseUs === null ? null : pulseUs / referenceUs);
  const top = samples.reduce((most, sample) => Math.max(most, asLong(sample) ?? 0), leastTimes);
  const y = scaleLinear([0.75, top], [laneHeight - 1, 2]).clamp(true);
  const slow = slowStretches(samples, referenceUs);
  const topWords = `${times(top)} as long`;
  return (
    <LaneFrame
      name="pulse"
      topWords={topWords}
      label={`Pulse of the machine: how long the same work took against before the run, up to ${topWords}. ${slow.length === 0 ? 'No slow stretch' : `${slow.length} slow ${slow.length === 1 ? 'stretch' : 'stretches'}`}.`}
    >
      {slow.map(({ fromMs, toMs, times: as }) => (
        <Mark
          key={fromMs}
          testId="slow-stretch"
          from={x(fromMs)}
          to={x(toMs)}
          words={`The machine took ${fixed(as, 2)} times as long here as before the run.`}
        />
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
      <CourseLine samples={samples} at={at} value={asLong} y={y} />
    </LaneFrame>
  );
}

const sensorLanes = [
  {
    name: 'clock',
    whole: 'Clock of the processor’s fastest core',
    unit: 'GHz',
    digits: 2,
    /** Around what was told, so that a steady sensor shows a straight line and not its noise. */
    room: 0.3,
    value: ({ clockGigahertz }: Sample) => clockGigahertz,
  },
  {
    name: 'temperature',
    whole: 'Temperature of the processor',
    unit: '°C',
    digits: 0,
    room: 8,
    value: ({ temperatureCelsius }: Sample) => temperatureCelsius,
  },
] as const;

/** What one of the processor's sensors told over the time, with where it slowed itself down. */
function SensorLane({
  lane: { name, whole, unit, digits, room, value },
  samples,
  at,
}: {
  lane: (typeof sensorLanes)[number];
  samples: readonly Sample[];
  at: At;
}) {
  const [least, most] = extent(samples, value);
  if (least === undefined || most === undefined) return null;
  const y = scaleLinear([least - room / 2, most + room / 2], [laneHeight - 1, 2]);
  const words = `${fixed(least, digits)} to ${quantity(most, unit, digits)}`;
  return (
    <LaneFrame name={name} topWords={words} label={`${whole} over the run: ${words}`}>
      {samples.map((sample, index) => {
        const before = samples[index - 1];
        return (
          before &&
          sample.throttled && (
            <Mark
              key={at(sample)}
              testId="throttled"
              from={at(before)}
              to={at(sample)}
              words="The processor slowed itself down here, for heat or power."
            />
          )
        );
      })}
      <CourseLine samples={samples} at={at} value={value} y={y} />
    </LaneFrame>
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
      {lanes.map(({ name, whole, top, topWords, own, others, line: runs }) => {
        const y = scaleLinear([0, top], [laneHeight - 1, 2]).clamp(true);
        const sum = (sample: Sample) =>
          runs ? (runs(sample) ?? 0) : (own(sample) ?? 0) + (others(sample) ?? 0);
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
          <LaneFrame key={name} name={name} topWords={topWords} label={`${whole}, up to ${topWords}`}>
            <path d={filled([...samples]) ?? ''} fill="var(--slot)" opacity="0.7" />
            <path
              d={outline([...samples]) ?? ''}
              fill="none"
              stroke="var(--signal-text)"
              strokeWidth="1.3"
              vectorEffect="non-scaling-stroke"
            />
          </LaneFrame>
        );
      })}
      {referenceUs !== null && samples.some(({ pulseUs }) => pulseUs !== null) && (
        <PulseLane samples={samples} referenceUs={referenceUs} x={x} at={at} />
      )}
      {sensorLanes.map((lane) => (
        <SensorLane key={lane.name} lane={lane} samples={samples} at={at} />
      ))}
    </div>
  );
}

/** What the lanes' marks mean. */
export function TelemetryLegend() {
  return (
    <p className="text-xs text-muted">
      Rig: filled, what the trial took; line, with what others took on top. The network is told for the whole
      rig, not by process. Server, of volumes over the network: filled, what the trial read and wrote; line,
      what passed the interface that leads there. Pulse: how long the same small piece of work took, against
      before the run; tinted where it took over {unsteadyTimes.p90} times as long. Clock and temperature stand
      where the system tells them, tinted where the processor slowed itself down. Graphics stand where it
      tells them, their engines for the trial alone.
    </p>
  );
}
