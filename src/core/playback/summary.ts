import type { Range } from '../media/faults';
import { toNumber, type Rational } from '../time/rational';
import { mean, quantiles } from '../stats/quantiles';
import { decodeBeside } from './coreTime';
import { attribute, causeBit, type Attribution } from './attribute';
import { findCures, type Cure, type RigChoices, type ScaleCosts } from './cures';
import { gradeOf, longestGapSlots, type Grade } from './grade';
import type { PartCharge } from '../timeline/parts';
import { measuredWork, type MeasuredWork } from './measuredWork';
import { clearSpans, lostMs, workWithout, type RigReason, type RigSpan } from './rigSpans';
import { soundSummary, type SoundSummary } from './sound';
import { skippedAt, slotState, type BufferDepths, type Policy } from './slots';
import { countStates, type Trace } from './trace';
import type { FrameGraph } from './work';

/** The figures of a playback trial. Times in ms, rates in frames per second. */
export interface PlaybackSummary {
  readonly slots: number;
  readonly shown: number;
  readonly late: number;
  readonly dropped: number;
  readonly wrong: number;
  /** Shown slots whose pictures the decoder concealed errors in, or that are built on such; absent in trials from before they were counted. */
  readonly doubtful?: number;
  /** Of those: proved to be another frame than the one they stand for. */
  readonly doubtfulWrong?: number;
  /** Null under "show every frame", where the achieved rate is the result. */
  readonly grade: Grade | null;
  readonly firstDropSlot: number | null;
  readonly longestGapSlots: number;
  readonly dropsPerMinute: number;
  readonly achievedRate: number;
  /** Achieved rate over the clip's rate, under "show every frame". */
  readonly timesRealTime: number | null;
  /** Presentation against due time. */
  readonly pacingMs: { readonly p50: number; readonly p95: number; readonly p99: number } | null;
  /** Median effective service per slot. */
  readonly serviceMs: { readonly read: number; readonly decode: number; readonly process: number };
  /** Mean of the same, with what given-up frames would have cost; absent in trials from before it was kept. */
  readonly meanServiceMs?: { readonly read: number; readonly decode: number; readonly process: number };
  /** Time of stages in which others had the cores that they were ready for; absent where it is not known. */
  readonly lostMs?: { readonly decode: number; readonly process: number };
  readonly attribution: Omit<Attribution, 'charges'> | null;
  readonly cures: readonly Cure[];
  /** Absent where no sound was played. */
  readonly sound?: SoundSummary;
  /** Tracks, items and effects of a timeline with the drops each would have removed, most first; absent where they were not measured. */
  readonly parts?: readonly PartCharge[];
}

export interface SummaryInput {
  readonly trace: Trace;
  readonly graph: FrameGraph;
  readonly rate: Rational;
  readonly policy: Policy;
  readonly buffers: BufferDepths;
  readonly scale: 'full' | 'half' | 'quarter';
  readonly scaleCosts: ScaleCosts | null;
  /** Processor times of the same; absent where they were not measured. */
  readonly coreCosts?: ScaleCosts | null;
  /** Slots whose pictures are concealed, or built on such. */
  readonly doubtful?: readonly Range[];
  /** How the rig was over the run; null where that is not known. */
  readonly spans?: readonly RigSpan[] | null;
  /** What could be played instead, or with, on this rig. */
  readonly choices?: RigChoices | null;
  /** What fewer streams at once would have removed, for a timeline of several. */
  readonly fewerStreams?: ((measured: MeasuredWork, states: Uint8Array) => Cure | null) | null;
  /** Charges drops to parts of a timeline. */
  readonly chargeParts?: ((measured: MeasuredWork, states: Uint8Array) => PartCharge[]) | null;
}

/** Computes a trial's summary and the charge of each slot. The trace holds finished slots only. */
export function summarise(input: SummaryInput): { summary: PlaybackSummary; charges: Uint8Array } {
  const { trace, graph, rate, policy, buffers } = input;
  const slotUs = 1e6 / toNumber(rate);
  const counts = countStates(trace.state);
  const measured = measuredWork(trace, graph, slotUs, policy, buffers);
  const holdTime = policy === 'hold-time';
  const spans = input.spans && input.spans.length > 0 ? clearSpans(input.spans) : null;
  const attribution = holdTime ? attribute(trace, measured) : null;
  const firstDrop = trace.state.indexOf(slotState.dropped);
  const minutes = (trace.length * slotUs) / 60e6;
  const sound = soundSummary(trace, slotUs);
  const achieved = achievedRate(trace, counts, slotUs, holdTime);
  const median = (values: Float64Array) => (quantiles(values, [0.5])[0] ?? 0) / 1000;
  const summary: PlaybackSummary = {
    slots: trace.length,
    ...pick(counts),
    ...countDoubtful(trace, input.doubtful),
    grade: holdTime ? gradeOf(trace.state) : null,
    firstDropSlot: firstDrop < 0 ? null : firstDrop,
    longestGapSlots: longestGapSlots(trace.state),
    dropsPerMinute: minutes > 0 ? counts.dropped / minutes : 0,
    achievedRate: achieved,
    timesRealTime: holdTime ? null : achieved / toNumber(rate),
    pacingMs: holdTime ? pacing(trace, slotUs) : null,
    serviceMs: {
      read: median(measured.work.read),
      decode: median(measured.work.decode),
      process: median(measured.work.process),
    },
    meanServiceMs: {
      read: mean(measured.work.read) / 1000,
      decode: mean(measured.work.decode) / 1000,
      process: mean(measured.work.process) / 1000,
    },
    attribution: attribution && ({ ...attribution, charges: undefined } as PlaybackSummary['attribution']),
    ...(sound ? { sound } : {}),
    cures: holdTime ? curesOf(input, measured, spans) : [],
    ...(spans ? { lostMs: lostMs(measured, trace, spans) } : {}),
    ...(holdTime && input.chargeParts ? { parts: input.chargeParts(measured, trace.state) } : {}),
  };
  return { summary, charges: attribution?.charges ?? chargesOfMedia(trace) };
}

function curesOf(
  { trace, scale, scaleCosts, coreCosts, choices, fewerStreams }: SummaryInput,
  measured: MeasuredWork,
  spans: readonly RigSpan[] | null,
): Cure[] {
  const without = spans && ((reasons: readonly RigReason[]) => workWithout(reasons, measured, trace, spans));
  const beside = spans && coreCosts ? decodeBeside(measured, trace, spans, coreCosts[scale]) : null;
  return findCures(measured, trace.bytes, {
    scale,
    scaleCosts,
    cores: beside && coreCosts ? { costs: coreCosts, decodeBeside: beside } : null,
    choices,
    without,
    fewerStreams: fewerStreams?.(measured, trace.state),
  });
}

/** The charges of a run under every frame. */
function chargesOfMedia({ skipped }: Trace): Uint8Array {
  return skipped.map((where) => (where === skippedAt.media ? causeBit.media : 0));
}

function countDoubtful(
  { state }: Trace,
  ranges: readonly Range[] = [],
): { doubtful: number; doubtfulWrong: number } {
  const counts = ranges.map(([first, last]) => countStates(state.subarray(first, last + 1)));
  const doubtfulWrong = counts.reduce((sum, { wrong }) => sum + wrong, 0);
  return {
    doubtful: counts.reduce((sum, { shown, late }) => sum + shown + late, doubtfulWrong),
    doubtfulWrong,
  };
}

/** A run's drops by charge. Under every frame nothing is late: what was not shown could not be decoded. */
export function dropsByCharge({
  attribution,
  dropped,
}: {
  readonly attribution: { readonly countByCharge: Attribution['countByCharge'] | null } | null;
  readonly dropped: number;
}): Attribution['countByCharge'] {
  return attribution?.countByCharge ?? (dropped > 0 ? { [causeBit.media]: dropped } : {});
}

function pick({ shown, late, dropped, wrong }: ReturnType<typeof countStates>) {
  return { shown: shown + late, late, dropped, wrong };
}

/** Hold time: frames shown over the slots' time. Every frame: frames over the time from first to last presentation. */
function achievedRate(
  trace: Trace,
  counts: ReturnType<typeof countStates>,
  slotUs: number,
  holdTime: boolean,
): number {
  if (trace.length === 0) return 0;
  if (holdTime) return (counts.shown + counts.late) / ((trace.length * slotUs) / 1e6);
  const times = trace.presentedAt.filter((at) => !Number.isNaN(at));
  const [first = Number.NaN, last = Number.NaN] = [times[0], times.at(-1)];
  return last > first ? ((times.length - 1) * 1e6) / (last - first) : 0;
}

function pacing(trace: Trace, slotUs: number): PlaybackSummary['pacingMs'] {
  const errors = trace.presentedAt.map((at, slot) => Math.abs(at - slot * slotUs) / 1000);
  const [p50, p95, p99] = quantiles(errors, [0.5, 0.95, 0.99]) as [number, number, number];
  return Number.isNaN(p50) ? null : { p50, p95, p99 };
}
