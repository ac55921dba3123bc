import { bestReplay, workingStages, type WorkingStage } from './attribute';
import type { MeasuredWork } from './measuredWork';
import type { Work } from './work';

/** Something that would have removed drops, with how many of them. */
export type Cure =
  | { readonly kind: 'scale'; readonly scale: 'full' | 'half' | 'quarter'; readonly removes: number; readonly of: number }
  | { readonly kind: 'faster'; readonly stage: WorkingStage; /** times as fast */ readonly factor: number; readonly removes: number; readonly of: number }
  | { readonly kind: 'volume'; /** sustained */ readonly bytesPerSecond: number; readonly removes: number; readonly of: number };

/** Measured time of the process stage at each playback scale, in µs per frame. */
export type ScaleCosts = Readonly<Record<'full' | 'half' | 'quarter', number>>;

/**
 * Finds what would have cured a run, by replaying it with changed resources.
 * @param bytes per slot
 * @param scaleCosts process times measured in the run's own warm-up, null when the run processed nothing
 */
export function findCures(measured: MeasuredWork, bytes: Float64Array, scale: 'full' | 'half' | 'quarter', scaleCosts: ScaleCosts | null): Cure[] {
  const { work, decisions } = measured;
  const of = dropsOf(work, decisions);
  if (of === 0) return [];
  const cures: Cure[] = [];
  for (const smaller of scaleCosts ? (['half', 'quarter'] as const) : []) {
    if (!scaleCosts || smaller === scale || (scale === 'quarter' && smaller === 'half')) continue;
    const ratio = Math.min(1, scaleCosts[smaller] / scaleCosts[scale]);
    const removes = of - dropsOf(scaled(work, 'process', ratio), decisions);
    if (removes > 0) cures.push({ kind: 'scale', scale: smaller, removes, of });
  }
  const rate = leastVolumeRate(work, decisions, bytes, of);
  if (rate) cures.push(rate);
  for (const stage of workingStages) {
    if (stage === 'read') continue;
    const cure = leastSpeedUp(work, decisions, stage, of);
    if (cure) cures.push(cure);
  }
  return cures.sort((a, b) => b.removes - a.removes);
}

function dropsOf(work: Work, decisions: Uint8Array): number {
  return bestReplay(work, {}, [decisions]).droppedCount;
}

function scaled(work: Work, stage: WorkingStage, ratio: number): Work {
  return { ...work, [stage]: work[stage].map((value) => value * ratio) };
}

/** Bisects on a logarithmic axis for the least value in [1, limit] that leaves no more than `target` drops. */
function leastFactor(limit: number, drops: (factor: number) => number, target: number): number {
  let low = 1;
  let high = limit;
  for (let step = 0; step < 9; step++) {
    const middle = Math.sqrt(low * high);
    if (drops(middle) <= target) high = middle;
    else low = middle;
  }
  return high;
}

const greatestSpeedUp = 64;

/** The least speed-up of a stage that removes all it can remove. */
function leastSpeedUp(work: Work, decisions: Uint8Array, stage: WorkingStage, of: number): Cure | null {
  const drops = (factor: number) => dropsOf(scaled(work, stage, 1 / factor), decisions);
  const removes = of - drops(greatestSpeedUp);
  if (removes <= 0) return null;
  return { kind: 'faster', stage, factor: leastFactor(greatestSpeedUp, drops, of - removes), removes, of };
}

/** The least sustained volume rate that removes all that a volume can remove: each read takes its bytes over the rate. */
function leastVolumeRate(work: Work, decisions: Uint8Array, bytes: Float64Array, of: number): Cure | null {
  const total = bytes.reduce((sum, value) => sum + value, 0);
  const demand = total / ((work.graph.slotCount * work.slotUs) / 1e6);
  if (!(demand > 0)) return null;
  const drops = (factor: number) => dropsOf({ ...work, read: bytes.map((size) => (size / (demand * factor)) * 1e6) }, decisions);
  const removes = of - drops(greatestSpeedUp);
  if (removes <= 0) return null;
  return { kind: 'volume', bytesPerSecond: demand * leastFactor(greatestSpeedUp, drops, of - removes), removes, of };
}
