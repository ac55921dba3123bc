import { mean } from '../stats/quantiles';
import type { MeasuredWork } from './measuredWork';
import { spanAt, spanIndex, type CoreUse, type RigSpan } from './rigSpans';
import type { Trace } from './trace';

/**
 * What decoding takes where processing takes `process` times its processor time, and decoding `decode` times its own: given decode
 * times of the run's slots, changed. `quiet`: others leave all cores to the trial.
 */
export type DecodeBeside = (
  times: Float64Array,
  change: { readonly process: number; readonly decode: number; readonly quiet: boolean },
) => Float64Array;

/** Of the cores that a trial has to itself, the share that its stages together get to use: they wait for each other now and then. */
const usable = 0.95;
/** Stretches on either side of a slot's own that are looked at with it. */
const around = 1;

/** A stretch of a run with those around it: means per slot. */
interface Stretch {
  readonly decodeUs: number;
  readonly weight: number;
  /** Processor time of decoding and of processing. */
  readonly decodeCoreUs: number;
  readonly processCoreUs: number;
  /** Cores that others left. */
  readonly freeCores: number;
  readonly siblingShare: number;
}

/**
 * How decode times hang on what processing takes of the same cores. Two things hide in measured times: a decoder with threads
 * works ahead while it waits for room, so that where processing was the limit its frames seem to take less than they cost; and where
 * both wanted the same cores, decoding took longer than it would have alone. So the processor time of the run tells what a slot takes
 * at least, over the cores that the trial had: its decoding and its processing cannot both be done in less. What decoding gains when
 * processing takes less is at most what the trial's threads waited for each other.
 * @param coreUs processor time of processing a slot at the run's scale, as measured after it
 * @returns null where the rig did not tell
 */
export function decodeBeside(
  measured: MeasuredWork,
  trace: Trace,
  spans: readonly RigSpan[],
  coreUs: number,
): DecodeBeside | null {
  const {
    work,
    work: { graph },
  } = measured;
  const uses = spans.flatMap(({ use }) => use ?? []);
  const [first] = uses;
  if (!first || uses.length < spans.length || spans.length < 2) return null;
  const at = work.decode.map((_, slot) =>
    spanIndex(slot, trace.decodeStart, trace.decodeEnd, work.slotUs, spans),
  );
  const stretches = stretchesOf(measured, at, trace, spans, uses, coreUs / mean(work.process));
  return (times, { process, decode, quiet }) => {
    const changes = stretches.map((stretch) => {
      const cores = quiet ? first.cores : stretch?.freeCores;
      if (!stretch || !cores) return { factor: decode, hiddenPerWeight: 0 };
      const { decodeUs, weight, decodeCoreUs, processCoreUs, siblingShare } = stretch;
      const least = (decode * decodeCoreUs + process * processCoreUs) / (cores * usable);
      const hidden = Math.max(0, least - decode * decodeUs);
      const gained = decode * (1 - siblingShare * Math.max(0, 1 - process));
      return {
        factor: hidden > 0 || decodeUs === 0 ? decode : Math.max(gained, least / decodeUs),
        hiddenPerWeight: weight > 0 ? hidden / weight : 0,
      };
    });
    return times.map((us, slot) => {
      const { factor, hiddenPerWeight } = changes[at[slot] as number] as (typeof changes)[number];
      return us * factor + hiddenPerWeight * (graph.weights[slot] as number);
    });
  };
}

/** What happened in one span: sums over it, times in µs. */
interface SpanSums {
  readonly coreUs: number;
  readonly freeCores: number;
  readonly siblingShare: number;
  processedUs: number;
  slots: number;
  decodeUs: number;
  processUs: number;
  weight: number;
  decodedWeight: number;
}

/** @param at each slot's span @param processShare processor time of processing for the time that it takes */
function stretchesOf(
  { work, work: { graph }, decodedWeights }: MeasuredWork,
  at: Float64Array,
  trace: Trace,
  spans: readonly RigSpan[],
  uses: readonly CoreUse[],
  processShare: number,
): (Stretch | null)[] {
  const lengthOf = (index: number) => (spans[index] as RigSpan).toUs - (spans[index - 1] as RigSpan).toUs;
  const sums = uses.map(({ trialCores, freeCores, siblingShare }, index): SpanSums => ({
    coreUs: index === 0 ? 0 : trialCores * lengthOf(index),
    freeCores,
    siblingShare,
    processedUs: 0,
    slots: 0,
    decodeUs: 0,
    processUs: 0,
    weight: 0,
    decodedWeight: 0,
  }));
  for (let slot = 0; slot < trace.length; slot++) {
    const processed = trace.processEnd[slot] as number;
    if (processed === processed)
      (sums[spanAt(processed, spans)] as SpanSums).processedUs += work.process[slot] as number;
    const own = sums[at[slot] as number] as SpanSums;
    own.slots++;
    own.decodeUs += work.decode[slot] as number;
    own.processUs += work.process[slot] as number;
    own.weight += graph.weights[slot] as number;
    own.decodedWeight += decodedWeights[slot] as number;
  }
  // What the trial took before the first sample is not known.
  return sums.map((_, index) =>
    index === 0
      ? null
      : stretchAround(sums.slice(Math.max(1, index - around), index + around + 1), processShare),
  );
}

function stretchAround(near: readonly SpanSums[], processShare: number): Stretch {
  const total = (of: (sum: SpanSums) => number) => near.reduce((all, sum) => all + of(sum), 0);
  const slots = Math.max(
    1,
    total((sum) => sum.slots),
  );
  const [weight, decodedWeight] = [total((sum) => sum.weight), total((sum) => sum.decodedWeight)];
  const decodeCore = Math.max(0, total((sum) => sum.coreUs) - total((sum) => sum.processedUs) * processShare);
  return {
    decodeUs: total((sum) => sum.decodeUs) / slots,
    weight: weight / slots,
    decodeCoreUs: decodedWeight > 0 ? (decodeCore * weight) / decodedWeight / slots : 0,
    processCoreUs: (total((sum) => sum.processUs) / slots) * processShare,
    freeCores: total(({ freeCores }) => freeCores) / near.length,
    siblingShare: total((sum) => sum.siblingShare) / near.length,
  };
}
