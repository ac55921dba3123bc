import type { Metric } from '../compare/compare';
import { toNumber, type Rational } from '../time/rational';
import type { TrialKind } from './kinds';
import type { Finding } from './summaries';

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
const count = (id: string, name: string, unit: string): Metric => ({
  id,
  name,
  unit,
  better: 'higher',
  measures: 'count',
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
  count('streams', 'Streams carried', 'streams'),
  time('decodeOne', 'Decoding on one core, per second of media', 'ms'),
  time('decodeAll', 'Decoding on all cores, per second of media', 'ms'),
  time('firstFrame', 'First frame from the decoder', 'ms'),
  rate('deviceRatio', 'Device over software on one core', 'x'),
  count('decodedStreams', 'Streams decoded', 'streams'),
  count('fullLevel', 'Most that plays at full scale', 'levels'),
  count('halfLevel', 'Most that plays at half scale', 'levels'),
  count('quarterLevel', 'Most that plays at quarter scale', 'levels'),
  time('fullLayer', 'A plain layer at full scale', 'ms'),
  time('halfLayer', 'A plain layer at half scale', 'ms'),
  time('quarterLayer', 'A plain layer at quarter scale', 'ms'),
  rate('copied', 'Copied', 'MB/s'),
  rate('made', 'Frames made', 'frames/s'),
];

type Values = Record<string, number | null | undefined>;

/** ms for a second of media at so many frames per second. */
const perMediaSecond = (media: Rational | null, framesPerSecond: number | undefined) =>
  media && framesPerSecond ? (toNumber(media) * 1000) / framesPerSecond : null;

const played = ({ summary, rate: slots, startLatencyMs }: Finding<'playback' | 'self-check'>): Values => ({
  // Under "every frame" nothing can drop; the time it took is the result.
  dropped: summary.grade === null ? null : (summary.dropped / Math.max(1, summary.slots)) * 100,
  playTime: summary.timesRealTime ? 1 / summary.timesRealTime : null,
  ...Object.fromEntries(
    (['read', 'decode', 'process'] as const).map((stage) => [
      `${stage}Time`,
      slots && summary.serviceMs[stage] * toNumber(slots),
    ]),
  ),
  startLatency: startLatencyMs,
});

/** The figures of each kind, by the metric's id. */
const values: { readonly [Kind in TrialKind]: (finding: Finding<Kind>) => Values } = {
  playback: played,
  'self-check': played,
  scrub: ({ summary }) => ({
    latencyP50: summary.latencyMs?.p50,
    latencyP95: summary.latencyMs?.p95,
    lag: summary.lagSlots.mean,
  }),
  ramp: ({ summary }) =>
    Object.fromEntries(summary.edges.map(({ scale, plays }) => [`${scale}Level`, plays])),
  calibration: ({ summary }) =>
    Object.fromEntries(summary.scales.map(({ scale, baseUs }) => [`${scale}Layer`, baseUs / 1000])),
  'decode-rate': ({ summary, rate: media }) => ({
    decodeOne: perMediaSecond(media, summary.one?.framesPerSecond.median),
    decodeAll: perMediaSecond(media, summary.all?.framesPerSecond.median),
    firstFrame: summary.firstFrameMs,
  }),
  'decode-support': ({ summary }) => ({ deviceRatio: summary.parts[0]?.ratio.value }),
  'decode-streams': ({ summary }) => ({ decodedStreams: summary.clean }),
  throughput: ({ summary }) => ({
    read: summary.read && summary.read.sustained / 1e6,
    write: summary.write && summary.write.sustained / 1e6,
  }),
  'streams-carried': ({ summary }) => ({ streams: summary.clean }),
  copy: ({ summary }) => ({
    copied: summary.copied > 0 && summary.seconds > 0 ? summary.bytes / summary.seconds / 1e6 : null,
  }),
  renditions: ({ summary: { frames, workedMs } }) => ({
    made: frames && workedMs ? (frames * 1000) / workedMs : null,
  }),
};

/** The figures of one trial, by the metric's id. Those it has none of are absent. */
export function valuesOf(finding: Finding): Record<string, number> {
  return Object.fromEntries(
    Object.entries((values[finding.kind] as (finding: Finding) => Values)(finding)).filter(
      (entry): entry is [string, number] => typeof entry[1] === 'number' && Number.isFinite(entry[1]),
    ),
  );
}

/** Metrics of which at least one side has a value, in their order. */
export function metricsOf(
  sides: readonly { readonly repeats: readonly { readonly values: Readonly<Record<string, number>> }[] }[],
): Metric[] {
  const present = new Set(
    sides.flatMap(({ repeats }) => repeats.flatMap(({ values: found }) => Object.keys(found))),
  );
  return metrics.filter(({ id }) => present.has(id));
}
