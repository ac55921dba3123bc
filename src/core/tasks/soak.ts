import { slotState } from '../playback/slots';
import type { Trace } from '../playback/trace';
import { levelsOf } from '../stats/changePoint';
import { median, quantiles } from '../stats/quantiles';
import { ratesOf, type TaskWindows } from './windows';
import { greatest } from '../stats/extremes';

/** A short stretch of a soak: as much of one pass as `pointSeconds`, or a shorter pass whole. */
export interface SoakPoint {
  /** Its end, s since the soak began. */
  readonly atS: number;
  /** Of work. */
  readonly seconds: number;
  /** Of a task: made. Of a playback: what its slowest stage could have done. */
  readonly framesPerSecond: number;
  readonly dropped: number;
}

/** What its passes come to. */
export interface SoakPasses {
  readonly done: number;
  /** Frames made, or slots played. */
  readonly frames: number;
  readonly dropped: number;
  /** Outputs that are not what was asked for. */
  readonly unproved: number;
  /** From the first frame of each pass to its last, all together, s: the rest is between them. */
  readonly workedS: number;
  /** Most memory of the process of each pass, bytes, in their order; of many passes, of every second, fourth … */
  readonly peakBytes: readonly number[];
}

/** What was measured of a soak. */
export interface SoakRecord {
  readonly points: readonly SoakPoint[];
  readonly passes: SoakPasses;
  /** How long it went on, s. */
  readonly seconds: number;
}

export const noPasses: SoakPasses = {
  done: 0,
  frames: 0,
  dropped: 0,
  unproved: 0,
  workedS: 0,
  peakBytes: [],
};

/** Length of a point at first, s. */
const pointSeconds = 5;
/** Points that are kept: beyond, two become one, so that a soak of hours takes no more room than one of an hour. */
const mostPoints = 1_000;

/** Points of a soak, in their order, never more than so many. */
export class SoakPoints {
  private kept: SoakPoint[] = [];
  /** Points that each of the kept ones stands for; the last may stand for fewer. */
  private each = 1;
  private inLast = 0;

  add(point: SoakPoint): void {
    const last = this.kept.at(-1);
    if (last && this.inLast < this.each) {
      this.kept[this.kept.length - 1] = together(last, point);
      this.inLast++;
      return;
    }
    this.kept.push(point);
    this.inLast = 1;
    if (this.kept.length <= mostPoints) return;
    // One more than an even number: the last, which has only begun, stays by itself.
    this.kept = this.kept.flatMap((one, at) => {
      if (at % 2 === 1) return [];
      const next = this.kept[at + 1];
      return [next ? together(one, next) : one];
    });
    this.each *= 2;
  }

  get all(): readonly SoakPoint[] {
    return this.kept;
  }
}

function together(a: SoakPoint, b: SoakPoint): SoakPoint {
  const seconds = a.seconds + b.seconds;
  return {
    atS: b.atS,
    seconds,
    framesPerSecond: (a.framesPerSecond * a.seconds + b.framesPerSecond * b.seconds) / seconds,
    dropped: a.dropped + b.dropped,
  };
}

/**
 * Points of one pass of a task: its steady part, behind the first frame and before the last, in stretches of `pointSeconds` at least.
 * @param fromS begin of the pass, s since the soak began
 */
export function pointsOfTask(windows: TaskWindows, fromS: number): SoakPoint[] {
  const rates = ratesOf(windows).map((one, at, all) => ({
    ...one,
    lengthS: one.atS - (all[at - 1]?.atS ?? 0),
  }));
  const first = rates.findIndex(({ framesPerSecond }) => framesPerSecond > 0) + 1;
  const last = rates.findLastIndex(({ framesPerSecond }) => framesPerSecond > 0);
  const steady = first > 0 && last > first ? rates.slice(first, last) : rates;
  const points: SoakPoint[] = [];
  let [seconds, frames] = [0, 0];
  steady.forEach(({ atS, framesPerSecond, lengthS }, at) => {
    seconds += lengthS;
    frames += framesPerSecond * lengthS;
    // What is left of a pass that has points is too short to stand for itself.
    const isAll = at === steady.length - 1 && points.length === 0 && seconds > 0;
    if (seconds < pointSeconds && !isAll) return;
    points.push({ atS: fromS + atS, seconds, framesPerSecond: frames / seconds, dropped: 0 });
    [seconds, frames] = [0, 0];
  });
  return points;
}

/** Collects the points of a pass of a playback from its trace, as it comes. */
export class PlayedPoints {
  private slots = 0;
  private dropped = 0;
  private readonly stages = {
    read: { us: 0, slots: 0 },
    decode: { us: 0, slots: 0 },
    process: { us: 0, slots: 0 },
  };

  /** @param fromS begin of the pass, s since the soak began @param rate slots a second */
  constructor(
    private readonly fromS: number,
    private readonly rate: number,
    private readonly onPoint: (point: SoakPoint) => void,
  ) {}
  private at = 0;

  add(trace: Trace): void {
    for (let row = 0; row < trace.length; row++) {
      if (trace.state[row] === slotState.dropped) this.dropped++;
      this.note('read', trace.readStart[row], trace.readEnd[row]);
      this.note('decode', trace.decodeStart[row], trace.decodeDone[row], trace.decodeHeldUs[row]);
      this.note('process', trace.processStart[row], trace.processEnd[row]);
      this.slots++;
      this.at++;
      if (this.slots >= pointSeconds * this.rate) this.tell();
    }
  }

  private note(
    stage: keyof PlayedPoints['stages'],
    fromUs = Number.NaN,
    toUs = Number.NaN,
    heldUs = 0,
  ): void {
    const us = toUs - fromUs - heldUs;
    if (Number.isNaN(us)) return;
    const sums = this.stages[stage];
    sums.us += Math.max(0, us);
    sums.slots++;
  }

  private tell(): void {
    const stages = Object.values(this.stages);
    const slowest = greatest(stages.map(({ us, slots }) => (slots > 0 ? us / slots : 0)));
    if (slowest > 0)
      this.onPoint({
        atS: this.fromS + this.at / this.rate,
        seconds: this.slots / this.rate,
        framesPerSecond: 1e6 / slowest,
        dropped: this.dropped,
      });
    [this.slots, this.dropped] = [0, 0];
    for (const sums of stages) [sums.us, sums.slots] = [0, 0];
  }

  /** A pass that is too short for a point is one. */
  end(): void {
    if (this.at === this.slots && this.slots > 0) this.tell();
  }
}

/** A stretch of a soak about one level. */
export interface SoakLevel {
  readonly fromS: number;
  readonly toS: number;
  readonly framesPerSecond: number;
}

/** Peaks that are kept. */
const mostPeaks = 400;

/** Peaks of passes in their order: of too many every second is kept, and of what comes then too. */
export class SoakPeaks {
  private kept: number[] = [];
  private every = 1;
  private count = 0;

  add(bytes: number | null): void {
    if (bytes === null || this.count++ % this.every !== 0) return;
    this.kept.push(bytes);
    if (this.kept.length <= mostPeaks) return;
    this.kept = this.kept.filter((_, at) => at % 2 === 0);
    this.every *= 2;
  }

  get all(): readonly number[] {
    return this.kept;
  }
}

export interface SoakSummary extends Omit<SoakPasses, 'peakBytes'> {
  /** Medians of the first and of the last quarter of the passes' peaks, bytes; null where there is none. */
  readonly firstPeakBytes: number | null;
  readonly lastPeakBytes: number | null;
  readonly seconds: number;
  /** In their order, one at least: the first is what a short run shows, the last what can be relied on. */
  readonly levels: readonly SoakLevel[];
  /** Median of the first level, and of the last, frames a second. */
  readonly atFirst: number;
  readonly sustained: number;
  /** Of all points, frames a second: how even it was. */
  readonly spread: { readonly p5: number; readonly p95: number };
  /** Slots a second that are played; null of a task. */
  readonly needed: number | null;
}

/** A change of level counts from here on, share of the level before; and levels last so many points. */
const leastChange = 0.05;
const leastRun = 6;

/** @param needed slots a second, of a playback @returns null where nothing was measured */
export function summariseSoak(
  { points, passes, seconds }: SoakRecord,
  needed: number | null,
): SoakSummary | null {
  const rates = points.map(({ framesPerSecond }) => framesPerSecond);
  const levels = levelsOf(rates, leastChange, leastRun).map(({ from, to, value }) => {
    const [first, last] = [points[from], points[to - 1]] as [SoakPoint, SoakPoint];
    return { fromS: first.atS - first.seconds, toS: last.atS, framesPerSecond: value };
  });
  const [begin, end] = [levels[0], levels.at(-1)];
  if (!begin || !end) return null;
  const [p5 = 0, p95 = 0] = quantiles(rates, [0.05, 0.95]);
  const { peakBytes, ...sums } = passes;
  const quarter = Math.max(1, Math.floor(peakBytes.length / 4));
  const medianOf = (peaks: readonly number[]) => (peaks.length > 0 ? median([...peaks]) : null);
  return {
    ...sums,
    firstPeakBytes: medianOf(peakBytes.slice(0, quarter)),
    lastPeakBytes: medianOf(peakBytes.slice(-quarter)),
    seconds,
    levels,
    atFirst: begin.framesPerSecond,
    sustained: end.framesPerSecond,
    spread: { p5, p95 },
    needed,
  };
}
