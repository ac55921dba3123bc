import { fallPoint } from '../stats/changePoint';
import { median, quantiles } from '../stats/quantiles';
import { filterBlocks, isMissed, type Blocks } from './blocks';
import { greatest, least } from '../stats/extremes';
import { figuresOfStaircase, staircaseOf, stairs, type Staircase, type StairStep } from './underWay';

/** Length of the windows that rates are taken over, as results state them. */
export const windowUs = 250_000;

/**
 * Bytes per second in consecutive windows, from the first request's start. A
 * block's bytes count evenly over the time it took. The last window is left out
 * when it is not whole, unless there is no other.
 */
export function windowRates(blocks: Blocks, lengthUs = windowUs): Float64Array {
  let first = Infinity;
  let last = -Infinity;
  for (let row = 0; row < blocks.length; row++) {
    first = Math.min(first, blocks.startUs[row] as number);
    last = Math.max(last, blocks.endUs[row] as number);
  }
  if (blocks.length === 0 || last <= first) return new Float64Array(0);
  const whole = Math.floor((last - first) / lengthUs);
  const length = whole === 0 ? last - first : lengthUs;
  const rates = new Float64Array(Math.max(1, whole));
  for (let row = 0; row < blocks.length; row++) {
    const start = ((blocks.startUs[row] as number) - first) / length;
    const end = Math.max(start + 1e-9, ((blocks.endUs[row] as number) - first) / length);
    const perWindow = (blocks.bytes[row] as number) / (end - start);
    for (let index = Math.floor(start); index < Math.min(end, rates.length); index++) {
      const inside = Math.min(end, index + 1) - Math.max(start, index);
      rates[index] = (rates[index] as number) + (perWindow * inside * 1e6) / length;
    }
  }
  return rates;
}

export interface LatencyFigures {
  readonly p50: number;
  readonly p95: number;
  readonly p99: number;
  readonly max: number;
}

/** What one direction of one repeat reached. Rates in bytes per second of 250 ms windows. */
export interface RateFigures {
  readonly bytes: number;
  readonly seconds: number;
  readonly blocks: number;
  readonly mean: number;
  readonly median: number;
  readonly p5: number;
  readonly p95: number;
  /** Median after the last fall to a lower level; the overall median without one. */
  readonly sustained: number;
  /** What came before that fall, or null: a cache that ran out, or a drive that slowed. */
  readonly burst: { readonly seconds: number; readonly bytes: number; readonly median: number } | null;
  /** From asking to the last byte, ms. */
  readonly latencyMs: LatencyFigures;
  /** Frame-paced: requests that came after their slot, given-up ones included. */
  readonly missed: number;
  /** Share, 0 to 1, that this host gave later than a stand-in's model would have: of all requests, of frame-paced ones of those that missed their slot. */
  readonly hostLateShare: number;
}

const noLatency: LatencyFigures = { p50: Number.NaN, p95: Number.NaN, p99: Number.NaN, max: Number.NaN };

/** Figures of a record that holds one direction of one repeat; null when nothing was transferred. */
export function rateFigures(blocks: Blocks): RateFigures | null {
  const done = filterBlocks(blocks, (row) => blocks.skipped[row] === 0);
  if (done.length === 0) return null;
  const rates = windowRates(done);
  const start = least(done.startUs);
  const end = greatest(done.endUs, 0);
  const bytes = done.bytes.reduce((sum, value) => sum + value, 0);
  const [p5 = 0, middle = 0, p95 = 0] = quantiles(rates, [0.05, 0.5, 0.95]);
  const fall = lastFall(rates);
  const missed = blocks.bytes.reduce((sum, _, row) => sum + (isMissed(blocks, row) ? 1 : 0), 0);
  const isPaced = !Number.isNaN(done.dueUs[0]);
  return {
    bytes,
    blocks: done.length,
    seconds: (end - start) / 1e6,
    mean: (bytes * 1e6) / Math.max(1, end - start),
    median: middle,
    p5,
    p95,
    sustained: fall === null ? middle : median(rates.subarray(fall)),
    burst:
      fall === null
        ? null
        : {
            seconds: (fall * windowUs) / 1e6,
            bytes: rates.subarray(0, fall).reduce((sum, rate) => sum + (rate * windowUs) / 1e6, 0),
            median: median(rates.subarray(0, fall)),
          },
    latencyMs: latencies(done),
    missed,
    hostLateShare:
      blocks.hostLate.reduce((sum, late) => sum + late, 0) / (isPaced ? Math.max(1, missed) : done.length),
  };
}

/** Index of the first window of the lowest level that lasts: falls are looked for again after each one found. */
function lastFall(rates: Float64Array): number | null {
  let from: number | null = null;
  for (;;) {
    const next = fallPoint(rates.subarray(from ?? 0));
    if (next === null) return from;
    from = (from ?? 0) + next;
  }
}

function latencies(blocks: Blocks): LatencyFigures {
  const ms = blocks.endUs.map((end, row) => (end - (blocks.startUs[row] as number)) / 1000);
  const [p50, p95, p99, max] = quantiles(ms, [0.5, 0.95, 0.99, 1]);
  return p50 === undefined || p95 === undefined || p99 === undefined || max === undefined
    ? noLatency
    : { p50, p95, p99, max };
}

/** A stand-in whose host is late so often shows its host and not its model. */
const heldBackShare = 0.2;

/** Whether figures are this host's rather than the stand-in's. */
export function heldBackByHost({ hostLateShare }: Pick<RateFigures, 'hostLateShare'>): boolean {
  return hostLateShare > heldBackShare;
}

/** A throughput trial's result: its repeats one by one, and what they say together. */
export interface ThroughputSummary {
  readonly repeats: readonly { readonly read: RateFigures | null; readonly write: RateFigures | null }[];
  readonly read: CombinedFigures | null;
  readonly write: CombinedFigures | null;
  /** Of a staircase; `read` is then the step that is needed, and `repeats` are the steps. */
  readonly staircase?: Staircase;
}

/** Repeats taken together: the median of each figure, and how far the sustained rates lie apart. */
export interface CombinedFigures extends RateFigures {
  /** Largest less smallest sustained rate of the repeats, as a share of their median; null for one repeat. */
  readonly spread: number | null;
}

/** Judges a whole record: by repeat and direction, then together. */
export function summariseThroughput(blocks: Blocks): ThroughputSummary {
  const count = greatest(blocks.repeat, -1) + 1;
  const repeats = Array.from({ length: count }, (_, repeat) => {
    const side = (write: number) =>
      rateFigures(
        filterBlocks(blocks, (row) => blocks.repeat[row] === repeat && blocks.write[row] === write),
      );
    return { read: side(0), write: side(1) };
  });
  const together = (side: 'read' | 'write') =>
    combine(repeats.map((repeat) => repeat[side]).filter((figures) => figures !== null));
  return { repeats, read: together('read'), write: together('write') };
}

/** Judges the record of a staircase, whose repeats are its steps. */
export function summariseStaircase(blocks: Blocks): ThroughputSummary {
  const { repeats } = summariseThroughput(blocks);
  const steps = repeats.flatMap(({ read }, at): StairStep[] => {
    const underWay = stairs[at];
    return read && underWay !== undefined ? [{ underWay, figures: read }] : [];
  });
  const staircase = staircaseOf(steps);
  return staircase
    ? { repeats, read: figuresOfStaircase(staircase), write: null, staircase }
    : { repeats, read: null, write: null };
}

function combine(repeats: readonly RateFigures[]): CombinedFigures | null {
  if (repeats.length === 0) return null;
  const middle = (pick: (figures: RateFigures) => number) => median(repeats.map(pick));
  const sustained = repeats.map((figures) => figures.sustained);
  const bursts = repeats.map((figures) => figures.burst).filter((burst) => burst !== null);
  const latencyMs = {
    p50: middle((f) => f.latencyMs.p50),
    p95: middle((f) => f.latencyMs.p95),
    p99: middle((f) => f.latencyMs.p99),
    max: greatest(repeats.map((f) => f.latencyMs.max)),
  };
  return {
    bytes: repeats.reduce((sum, { bytes }) => sum + bytes, 0),
    seconds: repeats.reduce((sum, { seconds }) => sum + seconds, 0),
    blocks: repeats.reduce((sum, f) => sum + f.blocks, 0),
    mean: middle((f) => f.mean),
    median: middle((f) => f.median),
    p5: middle((f) => f.p5),
    p95: middle((f) => f.p95),
    sustained: median(sustained),
    latencyMs,
    missed: repeats.reduce((sum, { missed }) => sum + missed, 0),
    hostLateShare: middle((f) => f.hostLateShare),
    // A burst of the first repeat is the volume's, rested; one that most show too. One of a few is a disturbance.
    burst:
      repeats[0]?.burst && bursts.length * 2 <= repeats.length
        ? repeats[0].burst
        : bursts.length * 2 > repeats.length
          ? {
              seconds: median(bursts.map(({ seconds }) => seconds)),
              bytes: median(bursts.map(({ bytes }) => bytes)),
              median: median(bursts.map((burst) => burst.median)),
            }
          : null,
    spread: repeats.length < 2 ? null : (greatest(sustained) - least(sustained)) / median(sustained),
  };
}
