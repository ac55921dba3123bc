import type { DecodeResult } from '../decode/result';
import type { PlaybackSummary } from '../playback/summary';
import type { ScrubSummary } from '../scrub/analyse';
import type { StreamsSummary } from '../storage/streams';
import type { ThroughputSummary } from '../storage/throughput';
import type { Metric } from './compare';

/** What a trial of any kind found, as far as comparisons use it. */
export type Finding =
  | {
      readonly kind: 'playback';
      readonly summary: Pick<PlaybackSummary, 'slots' | 'dropped' | 'grade' | 'timesRealTime' | 'serviceMs'>;
      /** slots per second */ readonly rate: number;
      readonly startLatencyMs: number | null;
    }
  | { readonly kind: 'scrub'; readonly summary: ScrubSummary }
  | { readonly kind: 'throughput'; readonly summary: ThroughputSummary }
  | { readonly kind: 'streams'; readonly summary: StreamsSummary }
  | {
      readonly kind: 'decode';
      readonly result: DecodeResult;
      /** frames per second of the media */ readonly rate: number;
    };

const time = (id: string, name: string, unit: string): Metric => ({
  id,
  name,
  unit,
  better: 'lower',
  measures: 'time',
});
const rate = (id: string, name: string, unit: string): Metric => ({
  id,
  name,
  unit,
  better: 'higher',
  measures: 'rate',
});

/** Figures that repeats are compared by, the one that decides first. Times of stages are per second of media, so that clips of different length and rate compare. */
export const metrics: readonly Metric[] = [
  { id: 'dropped', name: 'Dropped slots', unit: '%', better: 'lower', measures: 'share' },
  time('playTime', 'Time to play, per second of media', 's'),
  time('readTime', 'Reading, per second of media', 'ms'),
  time('decodeTime', 'Decoding, per second of media', 'ms'),
  time('processTime', 'Processing, per second of media', 'ms'),
  time('startLatency', 'Start latency', 'ms'),
  time('latencyP50', 'Scrub latency p50', 'ms'),
  time('latencyP95', 'Scrub latency p95', 'ms'),
  { id: 'lag', name: 'Picture behind playhead, mean', unit: 'slots', better: 'lower', measures: 'share' },
  rate('read', 'Sustained reading', 'MB/s'),
  rate('write', 'Sustained writing', 'MB/s'),
  { id: 'streams', name: 'Streams carried', unit: 'streams', better: 'higher', measures: 'count' },
  time('decodeOne', 'Decoding on one core, per second of media', 'ms'),
  time('decodeAll', 'Decoding on all cores, per second of media', 'ms'),
  time('firstFrame', 'First frame from the decoder', 'ms'),
];

/** The figures of one trial, by the metric's id. Those it has none of are absent. */
export function valuesOf(finding: Finding): Record<string, number> {
  const values: Record<string, number | null | undefined> = {};
  switch (finding.kind) {
    case 'playback': {
      const { summary } = finding;
      // Under "every frame" nothing can drop; the time it took is the result.
      values.dropped = summary.grade === null ? null : (summary.dropped / Math.max(1, summary.slots)) * 100;
      values.playTime = summary.timesRealTime ? 1 / summary.timesRealTime : null;
      for (const stage of ['read', 'decode', 'process'] as const)
        values[`${stage}Time`] = summary.serviceMs[stage] * finding.rate;
      values.startLatency = finding.startLatencyMs;
      break;
    }
    case 'scrub':
      values.latencyP50 = finding.summary.latencyMs?.p50;
      values.latencyP95 = finding.summary.latencyMs?.p95;
      values.lag = finding.summary.lagSlots.mean;
      break;
    case 'throughput':
      values.read = finding.summary.read && finding.summary.read.sustained / 1e6;
      values.write = finding.summary.write && finding.summary.write.sustained / 1e6;
      break;
    case 'streams':
      values.streams = finding.summary.clean;
      break;
    case 'decode': {
      const { result } = finding;
      if (result.kind !== 'rate') break;
      values.decodeOne = result.one && (finding.rate * 1000) / result.one.framesPerSecond.median;
      values.decodeAll = result.all && (finding.rate * 1000) / result.all.framesPerSecond.median;
      values.firstFrame = result.firstFrameMs;
      break;
    }
  }
  return Object.fromEntries(
    Object.entries(values).filter(
      (entry): entry is [string, number] => typeof entry[1] === 'number' && Number.isFinite(entry[1]),
    ),
  );
}

/** Metrics of which at least one side has a value, in their order. */
export function metricsOf(
  sides: readonly { readonly repeats: readonly { readonly values: Readonly<Record<string, number>> }[] }[],
): Metric[] {
  const present = new Set(
    sides.flatMap(({ repeats }) => repeats.flatMap(({ values }) => Object.keys(values))),
  );
  return metrics.filter(({ id }) => present.has(id));
}
