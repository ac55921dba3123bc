import { filterBlocks, type Blocks } from './blocks';
import type { ExpectedRate } from './model';
import { rampBounds, rampVerdict } from './ramp';
import { streamsByArithmetic, type FormatDemand } from './required';
import { heldBackByHost, rateFigures } from './throughput';

/** What the arithmetic says beside a measured number of streams. */
export interface StreamsArithmetic {
  readonly bytesPerSecond: number;
  readonly streams: number;
  /** `measured`: the volume's sustained sequential read; `model`: its stand-in's arithmetic. */
  readonly from: 'measured' | 'model';
  /** The part of a model that sets its rate. */
  readonly limit: ExpectedRate['limit'] | null;
}

/** What stopped the ramp: this host, which could not give a stand-in's bytes in time, the volume's data rate, its answers' time while rate was left, the number tried at most, or its end before either. */
export type StreamsLimit =
  | 'this machine'
  | 'data rate'
  | 'answer time'
  | 'most streams tried'
  | 'ended before';

export interface StreamsSummary {
  /** Largest number of streams that missed no slot and did not fall behind. */
  readonly clean: number;
  /** Smallest number that did; null when none did. */
  readonly missed: number | null;
  readonly steps: readonly {
    readonly streams: number;
    readonly frames: number;
    readonly missed: number;
    readonly behind: boolean;
    readonly clean: boolean;
    readonly bytesPerSecond: number;
    readonly latencyP99Ms: number;
    readonly hostLateShare: number;
  }[];
  readonly limit: StreamsLimit;
  readonly arithmetic: StreamsArithmetic | null;
}

const nearlyAll = 0.85;

/**
 * Judges a ramp.
 * @param blocks its requests; `repeat` numbers the steps
 * @param streamsOfStep streams of each step
 * @param rate the volume's data rate for one stream by measurement or model, and the streams it carries where a model knows; or null
 */
export function summariseStreams(
  blocks: Blocks,
  streamsOfStep: readonly number[],
  demand: FormatDemand,
  slotUs: number,
  mostStreams: number,
  rate:
    | (Pick<StreamsArithmetic, 'bytesPerSecond' | 'from' | 'limit'> & {
        readonly streams?: number | undefined;
      })
    | null,
): StreamsSummary {
  const steps = streamsOfStep.flatMap((streams, step) => {
    const part = filterBlocks(blocks, (row) => blocks.repeat[row] === step);
    const figures = rateFigures(part);
    const { missed, behind } = rampVerdict(part, slotUs);
    return part.length === 0
      ? []
      : [
          {
            streams,
            frames: part.length,
            missed,
            behind,
            clean: missed === 0 && !behind,
            bytesPerSecond: figures?.mean ?? 0,
            latencyP99Ms: figures?.latencyMs.p99 ?? 0,
            hostLateShare: figures?.hostLateShare ?? 0,
          },
        ];
  });
  const { clean, missed } = rampBounds(steps);
  const arithmetic = rate && {
    ...rate,
    streams: rate.streams ?? streamsByArithmetic(rate.bytesPerSecond, demand, { speed: 1, margin: 0 }),
  };
  const failing = steps.find((step) => step.streams === missed);
  const wanted = failing ? (failing.streams * demand.meanBitsPerSecond) / 8 : 0;
  const heldBack = failing !== undefined && heldBackByHost(failing);
  const limit = heldBack
    ? 'this machine'
    : !failing
      ? clean >= mostStreams
        ? 'most streams tried'
        : 'ended before'
      : wanted >= (arithmetic?.bytesPerSecond ?? failing.bytesPerSecond) * nearlyAll
        ? 'data rate'
        : 'answer time';
  return { clean, missed, steps, limit, arithmetic };
}
