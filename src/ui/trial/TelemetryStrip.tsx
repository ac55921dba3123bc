'use client';
import { area, curveStepAfter, line, scaleLinear } from 'd3';
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
  const most = (pick: (sample: Sample) => number | null) => samples.reduce((high, sample) => Math.max(high, pick(sample) ?? 0), 0);
  const disk = Math.max(leastTop, most((sample) => (sample.trialDiskBytesPerSecond ?? 0) + (sample.othersDiskBytesPerSecond ?? 0)));
  const network = Math.max(leastTop, most((sample) => sample.networkBytesPerSecond));
  return [
    { name: 'processor', top: 1, topWords: percent(1, 0), own: (sample) => sample.trialLoad, others: (sample) => sample.othersLoad },
    { name: 'disks', top: disk, topWords: megabytesPerSecond(disk), own: (sample) => sample.trialDiskBytesPerSecond, others: (sample) => sample.othersDiskBytesPerSecond },
    { name: 'network', top: network, topWords: megabytesPerSecond(network), own: () => 0, others: (sample) => sample.networkBytesPerSecond },
  ];
}

/**
 * What the rig did over a stretch of time, in lanes: what the trial took filled, what others took as a line on top of it.
 * @param timeAt wall-clock ms of an end of the stretch
 */
export function TelemetryStrip({ samples, fromMs, toMs }: { samples: readonly Sample[]; fromMs: number; toMs: number }) {
  if (samples.length < 2) return null;
  const x = scaleLinear([fromMs, toMs], [0, width]);
  const at = (sample: Sample) => x(new Date(sample.at).getTime());
  const lanes = lanesOf(samples).filter(({ others }) => samples.some((sample) => others(sample) !== null));
  return (
    <div className="border-t" data-testid="telemetry">
      {lanes.map(({ name, top, topWords, own, others }) => {
        const y = scaleLinear([0, top], [laneHeight - 1, 2]).clamp(true);
        const sum = (sample: Sample) => (own(sample) ?? 0) + (others(sample) ?? 0);
        const filled = area<Sample>().x(at).y0(laneHeight - 1).y1((sample) => y(own(sample) ?? 0)).curve(curveStepAfter);
        const outline = line<Sample>().x(at).y((sample) => y(sum(sample))).curve(curveStepAfter);
        return (
          <div key={name} className="relative border-b last:border-b-0">
            <svg role="img" aria-label={`Load of the ${name}: trial and others over the run, up to ${topWords}`} viewBox={`0 0 ${width} ${laneHeight}`} preserveAspectRatio="none" className="block w-full" style={{ height: laneHeight }}>
              <path d={filled([...samples]) ?? ''} fill="var(--slot)" opacity="0.7" />
              <path d={outline([...samples]) ?? ''} fill="none" stroke="var(--signal-text)" strokeWidth="1.3" vectorEffect="non-scaling-stroke" />
            </svg>
            <span aria-hidden className="pointer-events-none absolute left-1 top-0 bg-surface/80 px-1 text-xs text-muted">{name}</span>
            <span aria-hidden className="figure pointer-events-none absolute right-1 top-0 bg-surface/80 px-1 text-xs text-muted">{topWords}</span>
          </div>
        );
      })}
    </div>
  );
}

/** What the lanes' marks mean. */
export function TelemetryLegend() {
  return <p className="text-xs text-muted">Rig: filled, what the trial took; line, with what others took on top. The network is told for the whole rig, not by process.</p>;
}
