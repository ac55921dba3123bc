import type { DecodePass, SeekCost, StreamsStep } from '@/core/decode/result';
import type { DecodeKind, PlayedKind, StorageKind, TimelineKind, TrialKind } from '@/core/kinds/kinds';
import type { KindSummaries } from '@/core/kinds/summaries';
import type { ClipFaults } from '@/core/media/faults';
import type { Format } from '@/core/media/format';
import type { FrameStructure } from '@/core/media/frameStructure';
import type { PlayedClip, TimelineSubject } from '@/core/playback/subject';
import type { RenditionChoice } from '@/core/rendition/presets';
import type { RigMeanwhile } from '@/core/rig/doubt';
import type { StorageModel } from '@/core/storage/model';
import type { DeviceReport } from '@/engine/decode/devices';
import type { DecodeProgress, DecodeSettings } from '@/engine/decode/spec';
import type { ColdProof } from '@/engine/media/coldFile';
import type { PlaybackSettings, RunConditions } from '@/engine/playback/spec';
import type { RigIdentity, RigState } from '@/engine/rig';
import type { TimelineTestProgress, TimelineTestRecord, TimelineTestSettings } from '@/engine/scrub/spec';
import type { StorageProgress, StorageSettings, WriteWay } from '@/engine/storage/spec';
import type { VolumeFacts } from '@/engine/volume';

export const trialStatuses = [
  'queued',
  'running',
  'paused',
  'done',
  'cancelled',
  'failed',
  'crashed',
  'hung',
  'interrupted',
] as const;
export type TrialStatus = (typeof trialStatuses)[number];
/** Statuses in which a trial neither waits nor runs. */
export const endedStatuses = ['done', 'cancelled', 'failed', 'crashed', 'hung', 'interrupted'] as const;

export type VolumeKind = 'internal' | 'external' | 'network' | 'card';

/** Under what a trial of any kind began; saved before it measures. */
export interface RigConditions {
  readonly rig: RigIdentity;
  readonly rigState: RigState;
  readonly softwareVersion: string;
}

/** Load on the rig over a run, in shares of all cores, 0 to 1. */
export interface LoadSummary extends RigMeanwhile {
  readonly trialMean: number;
  readonly othersPeak: number;
  readonly peakMemoryBytes: number | null;
}

/** The clip that a trial played, kept with the trial so that it stays whole when a clip or volume goes. */
export interface ClipSubject extends PlayedClip {
  /** Absent in trials from before it was kept. */
  readonly volumeId?: string;
  readonly volumeKind: VolumeKind;
  readonly volumeFacts: VolumeFacts;
  readonly contentHash: string | null;
  readonly structure: FrameStructure;
  readonly frames: number;
}

export type PlayedSubject = ClipSubject | TimelineSubject;

export interface PlayedConditions extends RigConditions {
  /** Null until the trial process has prepared itself. */
  readonly run: RunConditions | null;
}

export interface PlayedProgress {
  /** Slots that are to be played. */
  readonly slotCount: number;
}

/** What a storage trial was made on, kept with it so that it stays whole when a volume goes. */
export interface StorageSubject {
  /** Null where it was gone before it was kept. */
  readonly volumeId: string | null;
  readonly volumeName: string;
  readonly volumeKind: VolumeKind;
  readonly volumePath: string;
  readonly volumeFacts: VolumeFacts;
  readonly link: string;
  readonly standIn: StorageModel | null;
  readonly cacheBytes: number;
  readonly clip: {
    readonly path: string;
    readonly format: Format;
    readonly meanBitsPerSecond: number;
    readonly peakBitsPerSecond: number;
  } | null;
}

export interface StorageConditions extends RigConditions {
  readonly cold: ColdProof | null;
  readonly writes: WriteWay | null;
  /** When other processes' load disturbed it: from and to, ms from the trial's first request. */
  readonly disturbedMs: readonly (readonly [number, number])[];
}

/** Numbers of streams that a ramp has tried, in order. */
export interface RampRecord {
  readonly streams: readonly number[];
}

/** What a decode trial was made on, kept with it so that it stays whole when a clip goes. */
export interface DecodeSubject {
  readonly clipPath: string;
  readonly volumeName: string;
  readonly contentHash: string | null;
  readonly format: Format;
  readonly structure: FrameStructure;
  readonly frames: number;
  readonly meanBitsPerSecond: number;
  /** The device as it was when asked for; absent for software alone. */
  readonly device: DeviceReport | null;
}

/** What a decode trial has measured so far. */
export interface DecodeRecord {
  readonly passes: readonly DecodePass[];
  /** By column: type and µs of each frame of the first pass on one core. */
  readonly costs: { readonly type: readonly number[]; readonly costUs: readonly number[] } | null;
  readonly seeks: readonly SeekCost[];
  readonly memoryBytes: number | null;
  readonly steps: readonly StreamsStep[];
  /** Frames that are not whole; absent: none was met. */
  readonly faults?: ClipFaults;
}

/** What a batch of renditions is made of and where it goes. */
export interface RenditionSubject {
  readonly volumeName: string;
  readonly simulated: boolean;
  /** Clips in the batch, and the name of the first. */
  readonly clips: number;
  readonly firstClip: string;
}

/** What a batch of renditions is made with. */
export interface RenditionSettings extends RenditionChoice {
  readonly volumeId: string;
  /** Folder below the volume. */
  readonly folder: string;
  /** Clips made at the same time; null measures which number is best. */
  readonly lanes: number | null;
}

export interface RenditionProgressNote {
  readonly framesDone: number;
  readonly framesTotal: number;
  readonly framesPerSecond: number;
  readonly msLeft: number | null;
  readonly note: string;
}

/** Rates with 1, 2, 3 ... clips at a time as measured on the first clips, frames per second. */
export interface LanesMeasured {
  readonly rates: readonly number[];
  readonly chosen: number;
}

export interface RenditionRecord {
  readonly lanes: LanesMeasured | null;
  /** Time at work over all parts of the batch, ms. */
  readonly workedMs: number;
}

interface Columns<Subject, Settings, Conditions, Progress, Record, Summary> {
  readonly subject: Subject;
  readonly settings: Settings;
  readonly conditions: Conditions | null;
  readonly progress: Progress | null;
  /** What was measured, where it is no trace and no list of requests. */
  readonly record: Record | null;
  readonly summary: Summary | null;
}

type PlayedColumns = Columns<
  PlayedSubject,
  PlaybackSettings,
  PlayedConditions,
  PlayedProgress,
  never,
  KindSummaries['playback']
>;
type TimelineColumns<Kind extends TimelineKind> = Columns<
  TimelineSubject,
  Extract<TimelineTestSettings, { kind: Kind }>,
  RigConditions,
  TimelineTestProgress,
  TimelineTestRecord,
  KindSummaries[Kind]
>;
type DecodeColumns<Kind extends DecodeKind> = Columns<
  DecodeSubject,
  Extract<DecodeSettings, { kind: Kind }>,
  RigConditions,
  DecodeProgress,
  DecodeRecord,
  KindSummaries[Kind]
>;
type StorageColumns<Kind extends StorageKind, Record> = Columns<
  StorageSubject,
  Extract<StorageSettings, { kind: Kind }>,
  StorageConditions,
  StorageProgress,
  Record,
  KindSummaries[Kind]
>;

/** What a trial of each kind keeps: a kind without a line here does not compile. */
interface KindColumns extends Record<
  TrialKind,
  Columns<unknown, unknown, unknown, unknown, unknown, unknown>
> {
  playback: PlayedColumns;
  'self-check': PlayedColumns;
  scrub: TimelineColumns<'scrub'>;
  ramp: TimelineColumns<'ramp'>;
  calibration: TimelineColumns<'calibration'>;
  'decode-rate': DecodeColumns<'decode-rate'>;
  'decode-support': DecodeColumns<'decode-support'>;
  'decode-streams': DecodeColumns<'decode-streams'>;
  throughput: StorageColumns<'throughput', never>;
  'streams-carried': StorageColumns<'streams-carried', RampRecord>;
  copy: StorageColumns<'copy', never>;
  renditions: Columns<
    RenditionSubject,
    RenditionSettings,
    RigConditions,
    RenditionProgressNote,
    RenditionRecord,
    KindSummaries['renditions']
  >;
}

/** Where a result was measured. */
export type Origin = 'measured' | 'imported';

/** What all kinds have alike. */
interface SharedColumns {
  readonly id: string;
  readonly rigId: string;
  readonly clipId: string | null;
  /** Volumes that it reads from and writes to. */
  readonly volumeIds: readonly string[];
  readonly timelineId: string | null;
  readonly status: TrialStatus;
  /** Why it ended, or its answer in a sentence. */
  readonly outcome: string | null;
  readonly detail: string | null;
  readonly load: LoadSummary | null;
  /** The series or matrix that made it, and the cell of it. */
  readonly planId: string | null;
  readonly planCell: number | null;
  readonly origin: Origin;
  /** Measured with a stand-in, or computed by a model. */
  readonly simulated: boolean;
  readonly demo: number;
  readonly createdAt: Date;
  readonly startedAt: Date | null;
  readonly endedAt: Date | null;
}

/** A trial as it is kept, of one kind or several. */
export type TrialRow<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: SharedColumns & { readonly kind: One } & KindColumns[One];
}[Kind];

/** A trial without its record, for lists. */
export type TrialListRow<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: SharedColumns & { readonly kind: One } & Omit<KindColumns[One], 'record'>;
}[Kind];

/** A trial that is to be made: what it is made of, without identity. */
export type NewTrial<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: Pick<KindColumns[One], 'subject' | 'settings'> & {
    readonly kind: One;
    readonly progress?: KindColumns[One]['progress'];
  } & Partial<Pick<SharedColumns, 'clipId' | 'volumeIds' | 'timelineId' | 'simulated' | 'demo'>>;
}[Kind];

/** A change of a trial's columns. */
export type TrialChange<Kind extends TrialKind = TrialKind> = Partial<
  Omit<SharedColumns, 'id'> & Omit<KindColumns[Kind], 'record'>
>;

export type PlayedTrial = TrialRow<PlayedKind>;
export type TimelineTrial = TrialRow<TimelineKind>;
export type DecodeTrial = TrialRow<DecodeKind>;
export type StorageTrial = TrialRow<StorageKind>;
