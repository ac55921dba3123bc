import { attribute } from '../playback/attribute';
import { gradeOf, type Grade } from '../playback/grade';
import { simulate } from '../playback/simulate';
import { slotState, type BufferDepths, type PlaybackScale, type Policy } from '../playback/slots';
import { emptyTrace } from '../playback/trace';
import type { Work } from '../playback/work';
import { toNumber } from '../time/rational';
import type { CourseFeed, CoursePlan } from './course';
import { processForecastUs, type EffectCosts } from './effectCosts';
import type { Timeline } from './model';

/** What a rig and its volumes are known to do. */
export interface KnownRates {
  /** Sustained reading of the volume that a medium is read from, bytes per second. */
  readonly bytesPerSecond: (media: string) => number;
  /** Decoding of a medium on all cores, frames per second. */
  readonly framesPerSecond: (media: string) => number;
  readonly costs: EffectCosts;
  /** Whether a medium is worked on in 16 bits a channel, and with it what is shown together with it. */
  readonly isDeep: (media: string) => boolean;
}

/** What a run is expected to do. */
export interface TimelineForecast {
  readonly slots: number;
  readonly dropped: number;
  readonly grade: Grade | null;
  /** Drops per charge, as bits of stages. */
  readonly countByCharge: Readonly<Record<number, number>>;
  /** Mean work per slot, ms. */
  readonly meanMs: { readonly read: number; readonly decode: number; readonly process: number };
}

/**
 * Forecasts a run of a timeline: bytes from the packet index over the volume's rate, packets over the
 * decode rate, layers and effects by calibrated costs, played through the simulator that also judges runs.
 * Decoding and processing both use all cores: where they take long together, each is stretched by
 * their sum over the longer of the two, so that the pair never does more than the processor can.
 */
export function forecastTimeline(
  timeline: Timeline,
  plan: CoursePlan,
  known: KnownRates,
  scale: PlaybackScale,
  buffers: BufferDepths,
  policy: Policy = 'hold-time',
): TimelineForecast {
  const slotUs = 1e6 / toNumber(timeline.rate);
  const work = forecastWork(timeline, plan, known, scale, slotUs, buffers, policy);
  const played = simulate(work);
  const states = Uint8Array.from(played.dropped, (dropped) =>
    dropped ? slotState.dropped : slotState.shown,
  );
  const trace = emptyTrace(plan.slotCount);
  trace.state.set(states);
  const { countByCharge } = attribute(trace, { work, decisions: played.decisions });
  const mean = (column: Float64Array) =>
    column.reduce((sum, value) => sum + value, 0) / Math.max(1, column.length) / 1000;
  return {
    slots: plan.slotCount,
    dropped: played.droppedCount,
    grade: gradeOf(states),
    countByCharge,
    meanMs: { read: mean(work.read), decode: mean(work.decode), process: mean(work.process) },
  };
}

/** The work of a run by what is known of a rig, as the simulator takes it (see `forecastTimeline`). */
export function forecastWork(
  { width, height }: Pick<Timeline, 'width' | 'height'>,
  plan: CoursePlan,
  known: KnownRates,
  scale: PlaybackScale,
  slotUs: number,
  buffers: BufferDepths,
  policy: Policy,
): Work {
  const zeros = () => new Float64Array(plan.slotCount);
  const work: Work = {
    graph: plan.graph,
    slotUs,
    policy,
    buffers,
    startUs: null,
    read: zeros(),
    decode: zeros(),
    process: zeros(),
    present: zeros(),
  };
  plan.uses.forEach((used, slot) => {
    let readUs = 0;
    let decodeUs = 0;
    const slotBytes = plan.graph.bytes[slot] as number;
    const packets = used.reduce(
      (sum, { feed, step }) => sum + packetsOf(plan.feeds[feed] as CourseFeed, step),
      0,
    );
    for (const { feed, step } of used) {
      const { media } = plan.feeds[feed] as CourseFeed;
      const own = packetsOf(plan.feeds[feed] as CourseFeed, step);
      // Bytes are known per slot; among its feeds they are shared by packets.
      if (packets > 0) readUs += (slotBytes * (own / packets) * 1e6) / known.bytesPerSecond(media);
      decodeUs += (own * 1e6) / known.framesPerSecond(media);
    }
    const layers = plan.contents[slot]?.layers.filter(({ media }) => media !== null) ?? [];
    const deep = layers.some(({ media }) => media !== null && known.isDeep(media));
    const processUs = processForecastUs(known.costs, scale, width * height, layers, deep);
    const longer = Math.max(decodeUs, processUs);
    const stretch = longer > 0 && decodeUs + processUs > slotUs ? (decodeUs + processUs) / longer : 1;
    work.read[slot] = readUs;
    work.decode[slot] = decodeUs * stretch;
    work.process[slot] = processUs * stretch;
  });
  return work;
}

function packetsOf({ plan }: CourseFeed, step: number): number {
  return (plan.from[step + 1] as number) - (plan.from[step] as number);
}
