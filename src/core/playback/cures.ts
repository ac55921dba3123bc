import { bestReplay } from './attribute';
import type { MeasuredWork } from './measuredWork';
import { simulate } from './simulate';
import type { WorkingStage } from './slots';
import type { Work } from './work';

/** Something that would have removed drops, with how many of them. */
export type Cure =
  | { readonly kind: 'scale'; readonly scale: 'full' | 'half' | 'quarter'; readonly removes: number; readonly of: number }
  | { readonly kind: 'processor'; /** decoding and processing, times as fast */ readonly factor: number; readonly removes: number; readonly of: number }
  | { readonly kind: 'faster'; readonly stage: WorkingStage; /** times as fast */ readonly factor: number; readonly removes: number; readonly of: number }
  | { readonly kind: 'volume'; /** sustained */ readonly bytesPerSecond: number; readonly removes: number; readonly of: number };

/** Measured time of the process stage at each playback scale, in µs per frame. */
export type ScaleCosts = Readonly<Record<'full' | 'half' | 'quarter', number>>;

/**
 * Finds what would have cured a run, by replaying it with changed resources. A
 * cure counts only for what it removes beyond the replay without any change.
 * @param bytes per slot
 * @param scaleCosts process times measured in the run's own warm-up, null when the run processed nothing
 */
export function findCures(measured: MeasuredWork, bytes: Float64Array, scale: 'full' | 'half' | 'quarter', scaleCosts: ScaleCosts | null): Cure[] {
  const { work, decisions } = measured;
  const run: Run = { work, decisions, of: simulate(work, { decisions }).droppedCount, unchanged: dropsOf(work, decisions) };
  if (run.of === 0) return [];
  const cures: (Cure | null)[] = [];
  for (const smaller of ['half', 'quarter'] as const) {
    if (!scaleCosts || smaller === scale || scale === 'quarter') continue;
    const ratio = Math.min(1, scaleCosts[smaller] / scaleCosts[scale]);
    const left = dropsOf(scaled(work, 'process', ratio), decisions);
    if (left < run.unchanged) cures.push({ kind: 'scale', scale: smaller, removes: run.of - left, of: run.of });
  }
  const single = [leastSpeedUp(run, 'decode'), leastSpeedUp(run, 'process')].filter((cure) => cure !== null);
  cures.push(leastVolumeRate(run, bytes), ...single, leastProcessor(run, single));
  const worthwhile = cures.filter((cure) => cure !== null && cure.removes >= run.of * leastWorthwhile) as Cure[];
  return worthwhile.sort((a, b) => b.removes - a.removes);
}

/** A measured run: its drops, and those of the best replay with nothing changed. */
interface Run {
  readonly work: Work;
  readonly decisions: Uint8Array;
  readonly of: number;
  readonly unchanged: number;
}

function dropsOf(work: Work, decisions: Uint8Array): number {
  return bestReplay(work, {}, [decisions]).droppedCount;
}

function scaled(work: Work, stage: WorkingStage, ratio: number): Work {
  return { ...work, [stage]: work[stage].map((value) => value * ratio) };
}

/** Beyond this a speed-up is no purchase any more. */
const greatestSpeedUp = 16;
/** A cure that removes less than this share of the drops is not worth naming. */
const leastWorthwhile = 0.1;
/** A cure is the least change that removes this share of what the greatest one would. */
const enough = 0.9;

/**
 * The least factor in [1, greatest] that removes nearly all that the greatest
 * one removes, by bisection on a logarithmic axis; null when that one removes nothing.
 */
function leastFactor(run: Run, drops: (factor: number) => number): { factor: number; removes: number } | null {
  const fewest = drops(greatestSpeedUp);
  if (fewest >= run.unchanged) return null;
  const target = fewest + Math.floor((run.unchanged - fewest) * (1 - enough));
  let low = 1;
  let high = greatestSpeedUp;
  for (let step = 0; step < 8; step++) {
    const middle = Math.sqrt(low * high);
    if (drops(middle) <= target) high = middle;
    else low = middle;
  }
  return { factor: high, removes: run.of - drops(high) };
}

type SpeedUp = Extract<Cure, { kind: 'faster' }>;

function leastSpeedUp(run: Run, stage: WorkingStage): SpeedUp | null {
  const least = leastFactor(run, (factor) => dropsOf(scaled(run.work, stage, 1 / factor), run.decisions));
  return least && { kind: 'faster', stage, ...least, of: run.of };
}

/** A processor that does both decoding and processing faster; null where it removes no more, and needs to be hardly less fast, than one of them alone. */
function leastProcessor(run: Run, single: readonly SpeedUp[]): Cure | null {
  const least = leastFactor(run, (factor) => dropsOf(scaled(scaled(run.work, 'decode', 1 / factor), 'process', 1 / factor), run.decisions));
  if (!least || single.some((cure) => cure.removes >= least.removes && cure.factor * 0.8 <= least.factor)) return null;
  return { kind: 'processor', ...least, of: run.of };
}

/** The least sustained volume rate that removes what a volume can remove: each read takes its bytes over the rate. */
function leastVolumeRate(run: Run, bytes: Float64Array): Cure | null {
  const total = bytes.reduce((sum, value) => sum + value, 0);
  const demand = total / ((run.work.graph.slotCount * run.work.slotUs) / 1e6);
  if (!(demand > 0)) return null;
  const least = leastFactor(run, (factor) => dropsOf({ ...run.work, read: bytes.map((size) => (size / (demand * factor)) * 1e6) }, run.decisions));
  return least && { kind: 'volume', bytesPerSecond: demand * least.factor, removes: least.removes, of: run.of };
}
