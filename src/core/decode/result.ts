import { frameTypes } from '../media/packetTable';
import { rampBounds } from '../storage/ramp';
import { mean, median, quantiles } from '../stats/quantiles';
import { toNumber, type Rational } from '../time/rational';
import {
  crossCheck,
  pairRatio,
  verdictOf,
  type CrossCheck,
  type DecodePair,
  type SupportVerdict,
} from './verdict';
import type { Interval } from '../stats/bootstrap';

/** On one core: the process is pinned to it and decodes with one thread. */
export type DecodeCores = 'one' | 'all';
export type DecodeSide = 'software' | 'device';

/** One measured pass over frames held in memory. */
export interface DecodePass {
  readonly cores: DecodeCores;
  readonly side: DecodeSide;
  readonly frames: number;
  /** From the first packet handed over to the first frame, µs. */
  readonly firstFrameUs: number;
  /** From the first to the last frame, µs: `frames - 1` of them. */
  readonly spanUs: number;
  /** Processor time of the process over the pass, µs. */
  readonly cpuUs: number;
  /** Frames that lay on a surface of the device. */
  readonly onDevice: number;
  /** Packets that the decoder refused; absent in passes from before they were counted. */
  readonly refused?: number;
  readonly decoder: string;
  readonly threads: number;
  readonly threadKind: string;
}

/** Frames per second of a pass, without its start. */
export function passRate({ frames, spanUs }: Pick<DecodePass, 'frames' | 'spanUs'>): number {
  return spanUs > 0 ? ((frames - 1) / spanUs) * 1e6 : Number.NaN;
}

/** What single frames cost on one core: type (index into `frameTypes`) and µs, in decode order. */
export interface FrameCosts {
  readonly type: Uint8Array;
  readonly costUs: Float64Array;
}

/** One jump: how many frames had to be decoded for it, and how long it took. */
export interface SeekCost {
  readonly distance: number;
  readonly us: number;
}

export interface Spread {
  readonly median: number;
  readonly low: number;
  readonly high: number;
}

function spreadOf(values: readonly number[]): Spread {
  const [low = Number.NaN, middle = Number.NaN, high = Number.NaN] = quantiles(values, [0, 0.5, 1]);
  return { median: middle, low, high };
}

export interface CoresFigures {
  readonly framesPerSecond: Spread;
  readonly cpuUsPerFrame: number;
  readonly passes: number;
  readonly threads: number;
  readonly threadKind: string;
}

/** Result of a decode trial: how fast a format decodes, from memory, and what it costs. */
export interface RateResult {
  readonly kind: 'decode-rate';
  readonly decoder: string;
  readonly one: CoresFigures | null;
  readonly all: CoresFigures | null;
  /** Until the first frame of a pass on all cores, median; null where none was made: it was cancelled before. */
  readonly firstFrameMs: number | null;
  /** Cost of a frame on one core by its type, ms. */
  readonly byType: readonly {
    readonly type: string;
    readonly frames: number;
    readonly p50Ms: number;
    readonly p95Ms: number;
  }[];
  readonly seeks: readonly SeekCost[];
  /** A jump's cost as a line over the distance from the key frame; null for intra formats. */
  readonly seekLine: { readonly baseMs: number; readonly perFrameMs: number } | null;
  readonly memoryBytes: number | null;
  /** One core's time per megapixel and per megabit of coded data, ms. */
  readonly msPerMegapixel: number | null;
  readonly msPerMegabit: number | null;
}

interface RateParts {
  readonly passes: readonly DecodePass[];
  readonly costs: FrameCosts | null;
  readonly seeks: readonly SeekCost[];
  readonly memoryBytes: number | null;
  readonly format: { readonly width: number; readonly height: number; readonly rate: Rational };
  readonly meanBitsPerSecond: number;
}

export function summariseRate({
  passes,
  costs,
  seeks,
  memoryBytes,
  format,
  meanBitsPerSecond,
}: RateParts): RateResult {
  const one = coresFigures(passes, 'one');
  const firstFramesMs = passes
    .filter(({ cores }) => cores === 'all')
    .map(({ firstFrameUs }) => firstFrameUs / 1000);
  const msPerFrame = one ? 1000 / one.framesPerSecond.median : null;
  const megabitsPerFrame = meanBitsPerSecond / toNumber(format.rate) / 1e6;
  return {
    kind: 'decode-rate',
    decoder: passes[0]?.decoder ?? 'unknown',
    one,
    all: coresFigures(passes, 'all'),
    firstFrameMs: firstFramesMs.length > 0 ? median(firstFramesMs) : null,
    byType: costs ? costsByType(costs) : [],
    seeks,
    seekLine: seekLine(seeks),
    memoryBytes,
    msPerMegapixel: msPerFrame === null ? null : msPerFrame / ((format.width * format.height) / 1e6),
    msPerMegabit: msPerFrame === null || megabitsPerFrame <= 0 ? null : msPerFrame / megabitsPerFrame,
  };
}

function coresFigures(all: readonly DecodePass[], cores: DecodeCores): CoresFigures | null {
  const passes = all.filter((pass) => pass.cores === cores && pass.side === 'software');
  const [first] = passes;
  if (!first) return null;
  return {
    framesPerSecond: spreadOf(passes.map(passRate)),
    cpuUsPerFrame: usualCost(passes),
    passes: passes.length,
    threads: first.threads,
    threadKind: first.threadKind,
  };
}

function costsByType({ type, costUs }: FrameCosts): RateResult['byType'] {
  return frameTypes
    .map((name, index) => {
      const found = costUs.filter((_, row) => type[row] === index);
      const [p50Ms = Number.NaN, p95Ms = Number.NaN] = quantiles(found, [0.5, 0.95]).map((us) => us / 1000);
      return { type: name, frames: found.length, p50Ms, p95Ms };
    })
    .filter(({ frames }) => frames > 0);
}

/** Least-squares line of cost over distance; null with fewer than two distances. */
function seekLine(seeks: readonly SeekCost[]): RateResult['seekLine'] {
  const x = mean(seeks.map(({ distance }) => distance));
  const y = mean(seeks.map(({ us }) => us));
  const spread = seeks.reduce((sum, { distance }) => sum + (distance - x) ** 2, 0);
  if (seeks.length < 2 || spread === 0) return null;
  const slope = seeks.reduce((sum, { distance, us }) => sum + (distance - x) * (us - y), 0) / spread;
  return { baseMs: (y - slope * x) / 1000, perFrameMs: slope / 1000 };
}

/** Pairs of one way of using the cores, and what they say. */
export interface SupportPart {
  readonly cores: DecodeCores;
  readonly pairs: readonly DecodePair[];
  readonly ratio: Interval;
  readonly verdict: SupportVerdict;
  /** Processor time of a frame, µs. */
  readonly cpuUsPerFrame: { readonly software: number; readonly device: number };
}

/** Result of a decode-support trial. The verdict is that of one pinned core: it shows whether the device does the work. */
export interface SupportResult {
  readonly kind: 'decode-support';
  readonly verdict: SupportVerdict;
  readonly parts: readonly SupportPart[];
  /** Share of frames in the device's passes that lay on its surfaces. */
  readonly onDevice: number;
  readonly check: CrossCheck;
  readonly decoder: string;
}

/** @returns null while there are no two pairs: one makes no interval */
export function summariseSupport(passes: readonly DecodePass[]): SupportResult | null {
  const parts = (['one', 'all'] as const)
    .map((cores) => supportPart(passes, cores))
    .filter((part): part is SupportPart => part !== null);
  const [head] = parts;
  if (!head) return null;
  const device = passes.filter(({ side }) => side === 'device');
  const onDevice =
    device.reduce((sum, pass) => sum + pass.onDevice, 0) /
    Math.max(
      1,
      device.reduce((sum, pass) => sum + pass.frames, 0),
    );
  return {
    kind: 'decode-support',
    verdict: head.verdict,
    parts,
    onDevice,
    check: crossCheck(head.verdict, onDevice),
    decoder: passes[0]?.decoder ?? 'unknown',
  };
}

/** The pairs among passes that alternate software and device. */
export function pairsOf(passes: readonly DecodePass[], cores: DecodeCores): DecodePair[] {
  const [software, device] = (['software', 'device'] as const).map((side) =>
    passes.filter((pass) => pass.cores === cores && pass.side === side).map(passRate),
  );
  return (device ?? []).map((rate, index) => ({ software: software?.[index] ?? Number.NaN, device: rate }));
}

/** Processor time of a frame, µs: the median of passes, because the process's own work (a clean-up of its memory) falls on one of them, and on a device's pass with few frames it would weigh more than they do. */
function usualCost(passes: readonly DecodePass[]): number {
  return median(passes.map(({ cpuUs, frames }) => cpuUs / frames));
}

function supportPart(passes: readonly DecodePass[], cores: DecodeCores): SupportPart | null {
  const pairs = pairsOf(passes, cores);
  if (pairs.length < 2) return null;
  const ratio = pairRatio(pairs);
  const cost = (side: DecodeSide) =>
    usualCost(passes.filter((pass) => pass.cores === cores && pass.side === side));
  return {
    cores,
    pairs,
    ratio,
    verdict: verdictOf(ratio),
    cpuUsPerFrame: { software: cost('software'), device: cost('device') },
  };
}

/** One number of streams that was decoded side by side. */
export interface StreamsStep {
  readonly streams: number;
  readonly frames: number;
  readonly missed: number;
  /** Frames that could not be decoded; absent in steps from before they were counted. */
  readonly refused?: number;
  /** Of the frames: those that a device decoded; absent where it was software alone. */
  readonly onDevice?: number;
  readonly clean: boolean;
  /** The least time to spare before a due moment, µs; negative when missed. */
  readonly leastSpareUs: number;
}

/** Result of a ramp of decoded streams. */
export interface DecodeStreamsResult {
  readonly kind: 'decode-streams';
  /** The largest number that missed nothing; 0 when even one did. */
  readonly clean: number;
  readonly missed: number | null;
  readonly steps: readonly StreamsStep[];
  /** Decode rate over the timeline's rate, rounded down; null where no decode rate was measured. */
  readonly arithmetic: { readonly streams: number; readonly framesPerSecond: number } | null;
}

export function decodeStreams(
  steps: readonly StreamsStep[],
  framesPerSecond: number | null,
  rate: Rational,
): DecodeStreamsResult {
  return {
    kind: 'decode-streams',
    ...rampBounds(steps),
    steps,
    arithmetic:
      framesPerSecond === null
        ? null
        : { streams: Math.floor(framesPerSecond / toNumber(rate)), framesPerSecond },
  };
}

export type DecodeResult = RateResult | SupportResult | DecodeStreamsResult;
