import type { DecodeStreamsResult, RateResult, SupportResult } from '../decode/result';
import type { PlaybackSummary } from '../playback/summary';
import type { ScrubSummary } from '../scrub/analyse';
import type { CopyResult } from '../storage/copy';
import type { StreamsSummary } from '../storage/streams';
import type { ThroughputSummary } from '../storage/throughput';
import type { Rational } from '../time/rational';
import type { EffectCosts } from '../timeline/effectCosts';
import type { RampResult } from '../timeline/ramp';
import type { TrialKind } from './kinds';

/** What a self-check found of its injected faults and of the timer. */
export interface SelfCheckResult {
  readonly trusted: boolean;
  readonly reasons: readonly string[];
  readonly expected: readonly { slot: number; cause: string }[];
  readonly found: readonly { slot: number; cause: string }[];
  readonly jitterMs: {
    readonly p50: number;
    readonly p95: number;
    readonly p99: number;
    readonly max: number;
  };
}

export type PlayedSummary = PlaybackSummary & {
  /** Of a self-check that came to its end. */
  readonly selfCheck?: SelfCheckResult;
};

/** How many clips of a batch of renditions came to what. */
export interface RenditionSummary {
  readonly items: number;
  readonly made: number;
  readonly present: number;
  readonly failed: number;
  /** Frames that were made, and the time at work on them; absent in batches from before they were kept. */
  readonly frames?: number;
  readonly workedMs?: number;
}

/** What trials of each kind find. */
export interface KindSummaries extends Record<TrialKind, object> {
  playback: PlayedSummary;
  'self-check': PlayedSummary;
  scrub: ScrubSummary;
  ramp: RampResult;
  calibration: EffectCosts;
  'decode-rate': RateResult;
  'decode-support': SupportResult;
  'decode-streams': DecodeStreamsResult;
  throughput: ThroughputSummary;
  'streams-carried': StreamsSummary;
  copy: CopyResult;
  renditions: RenditionSummary;
}

/** A summary as lists and comparisons use it: without what only its own page shows, and what may be long. */
export type ShortSummary<Kind extends TrialKind> = KindSummaries[Kind] extends PlayedSummary
  ? Omit<PlayedSummary, 'cures' | 'parts'>
  : KindSummaries[Kind];

/** What besides its summary a finding stands on. */
export interface FindingContext {
  /** Frames or slots per second of what was played or decoded; null where there is none. */
  readonly rate: Rational | null;
  readonly startLatencyMs: number | null;
  /** Of a decode device; null for software. */
  readonly deviceName: string | null;
  /** Readers side by side of a frame-paced test; null for all else. */
  readonly framePacedStreams: number | null;
  /** Whether a copy was read back. */
  readonly verified: boolean;
}

/** What a trial of one kind, or several, found. */
export type Finding<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: FindingContext & { readonly kind: One; readonly summary: ShortSummary<One> };
}[Kind];
