import { sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
} from 'drizzle-orm/pg-core';
import type { Format } from '@/core/media/format';
import type { DecodePass, DecodeResult, SeekCost, StreamsStep } from '@/core/decode/result';
import type { ClipFaults } from '@/core/media/faults';
import type { FrameStructure } from '@/core/media/frameStructure';
import type { ClipIdentity } from '@/core/media/identity';
import type { FrameCheck } from '@/core/rendition/frameCheck';
import type { RenditionChoice } from '@/core/rendition/presets';
import type { RigMeanwhile } from '@/core/rig/doubt';
import type { PlaybackSummary } from '@/core/playback/summary';
import type { StorageModel } from '@/core/storage/model';
import type { StreamsSummary } from '@/core/storage/streams';
import type { ThroughputSummary } from '@/core/storage/throughput';
import type { Rational } from '@/core/time/rational';
import type { ColdProof } from '@/engine/media/coldFile';
import type { CodecSetup } from '@/engine/media/probe';
import type { PlaybackSettings, RunConditions } from '@/engine/playback/spec';
import type { DeviceReport } from '@/engine/decode/devices';
import type { DecodeProgress, DecodeSettings } from '@/engine/decode/spec';
import type { RenditionWork } from '@/engine/rendition/spec';
import type { RigIdentity, RigState } from '@/engine/rig';
import type {
  CopiedFile,
  CopyResult,
  StorageProgress,
  StorageSettings,
  WriteWay,
} from '@/engine/storage/spec';
import type { VolumeFacts } from '@/engine/volume';
import { bytea, time } from './columns';
import type { PlayedClip, TimelineSubject } from '@/core/playback/subject';

export * from './timelineSchema';
export * from './planSchema';

export const rigs = pgTable('rigs', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  identity: jsonb('identity').$type<RigIdentity>().notNull(),
  /** Decode devices as they were last tried; null before the first time. */
  devices: jsonb('devices').$type<readonly DeviceReport[] | null>(),
  /** Set for a rig whose results came in as a bundle; null for one that measures into this database. */
  imported: jsonb('imported').$type<ImportedRig>(),
  /** The least pulse that a self-check has found; null before the first. */
  bestPulse: jsonb('best_pulse').$type<BestPulse | null>(),
  createdAt: time('created_at').notNull().defaultNow(),
});

/** A pulse with when and where it was found. */
export interface BestPulse {
  readonly us: number;
  readonly at: string;
  readonly trialId: string;
}

/** Where a rig's results come from. */
export interface ImportedRig {
  /** Computed by a model, not measured. */
  readonly simulated: boolean;
  readonly softwareVersion: string;
  readonly exportedAt: string;
}

export type VolumeKind = 'internal' | 'external' | 'network' | 'card';

export const volumes = pgTable('volumes', {
  id: text('id').primaryKey(),
  rigId: text('rig_id')
    .notNull()
    .references(() => rigs.id),
  name: text('name').notNull(),
  kind: text('kind').$type<VolumeKind>().notNull(),
  path: text('path').notNull(),
  facts: jsonb('facts').$type<VolumeFacts>().notNull(),
  /** How it is connected, in the person's words. */
  link: text('link').notNull().default(''),
  /** Array, drives and what else is worth knowing, in the person's words. */
  notes: text('notes').notNull().default(''),
  price: doublePrecision('price'),
  /** The model that paces it where it is simulated; null for a real volume. */
  standIn: jsonb('stand_in').$type<StorageModel | null>(),
  /** Memory of the store's server, as far as it is known: reads of less may come from it. */
  cacheBytes: bigint('cache_bytes', { mode: 'number' }).notNull().default(0),
  /** Made by the demo; `reset` removes it. */
  demo: integer('demo').notNull().default(0),
  /** Null, or how far a running scan is. */
  scan: jsonb('scan').$type<ScanProgress | null>(),
  /** What the last scan found. */
  lastScan: jsonb('last_scan').$type<ScanFindings | null>(),
  scannedAt: time('scanned_at'),
  createdAt: time('created_at').notNull().defaultNow(),
});

/** How many files a scan found in which state, against the one before. */
export interface ScanFindings {
  readonly added: number;
  readonly changed: number;
  readonly moved: number;
  readonly missing: number;
  readonly same: number;
  readonly seconds: number;
}

export interface ScanProgress {
  readonly done: number;
  readonly total: number;
  readonly startedAt: string;
  readonly error: string | null;
}

/** The same content in one or several forms. */
export const footage = pgTable('footage', {
  id: text('id').primaryKey(),
  rigId: text('rig_id')
    .notNull()
    .references(() => rigs.id),
  name: text('name').notNull(),
  /** Put together by hand: automatic grouping adds to it and takes nothing away. */
  byHand: boolean('by_hand').notNull().default(false),
});

/** What a scan found of one media file. Columns after `problem` are null when the file could not be read. */
export const clips = pgTable(
  'clips',
  {
    id: text('id').primaryKey(),
    volumeId: text('volume_id')
      .notNull()
      .references(() => volumes.id, { onDelete: 'cascade' }),
    /** Path below the volume's folder. */
    path: text('path').notNull(),
    sizeBytes: bigint('size_bytes', { mode: 'number' }).notNull(),
    modifiedAt: time('modified_at').notNull(),
    status: text('status').$type<'ready' | 'unplayable' | 'missing'>().notNull(),
    problem: text('problem'),
    contentHash: text('content_hash'),
    format: jsonb('format').$type<Format>(),
    structure: jsonb('structure').$type<FrameStructure>(),
    identity: jsonb('identity').$type<ClipIdentity>(),
    timeBase: jsonb('time_base').$type<Rational>(),
    setup: jsonb('setup').$type<CodecSetup>(),
    startTimecode: text('start_timecode'),
    frames: integer('frames'),
    meanBitsPerSecond: doublePrecision('mean_bits_per_second'),
    peakBitsPerSecond: doublePrecision('peak_bits_per_second'),
    /** Frames that are not whole, as far as runs met them; null: none is known. */
    faults: jsonb('faults').$type<ClipFaults>(),
    footageId: text('footage_id').references(() => footage.id, { onDelete: 'set null' }),
    /** Whether a person put it where it is: `grouped` into its footage, or `alone`; null leaves it to the automatic grouping. */
    footageHand: text('footage_hand').$type<'grouped' | 'alone'>(),
    /** How long reading and indexing it took, ms. */
    indexMs: doublePrecision('index_ms'),
    scannedAt: time('scanned_at').notNull().defaultNow(),
  },
  (table) => [
    index('clips_volume').on(table.volumeId),
    index('clips_footage').on(table.footageId),
    index('clips_content').on(table.contentHash),
  ],
);

/** What was made of a clip in the background for looking at it. */
export const previews = pgTable('previews', {
  clipId: text('clip_id')
    .primaryKey()
    .references(() => clips.id, { onDelete: 'cascade' }),
  /** The content it was made of. */
  contentHash: text('content_hash').notNull(),
  /** Thumbnails side by side, as one JPEG; null when none could be made. */
  strip: bytea('strip'),
  tiles: integer('tiles').notNull().default(0),
  tileWidth: integer('tile_width').notNull().default(0),
  tileHeight: integer('tile_height').notNull().default(0),
  stripMs: doublePrecision('strip_ms').notNull().default(0),
  peaks: bytea('peaks'),
  audioMs: doublePrecision('audio_ms').notNull().default(0),
  fingerprint: bytea('fingerprint'),
  problem: text('problem'),
});

/** The packed packet table of a clip, apart from the clip so that lists stay light. */
export const packetTables = pgTable('packet_tables', {
  clipId: text('clip_id')
    .primaryKey()
    .references(() => clips.id, { onDelete: 'cascade' }),
  data: bytea('data').notNull(),
});

export type TrialKind = 'playback' | 'self-check';
export const trialStatuses = [
  'queued',
  'running',
  'done',
  'cancelled',
  'failed',
  'crashed',
  'hung',
  'interrupted',
] as const;
export type TrialStatus = (typeof trialStatuses)[number];

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

export type TrialSubject = ClipSubject | TimelineSubject;

export interface TrialConditions {
  readonly rig: RigIdentity;
  readonly rigState: RigState;
  readonly run: RunConditions | null;
  readonly softwareVersion: string;
}

/** Load on the rig over a run, in shares of all cores, 0 to 1. */
export interface LoadSummary extends RigMeanwhile {
  readonly trialMean: number;
  readonly othersPeak: number;
  readonly peakMemoryBytes: number | null;
}

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

export const trials = pgTable(
  'trials',
  {
    id: text('id').primaryKey(),
    kind: text('kind').$type<TrialKind>().notNull(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    clipId: text('clip_id').references(() => clips.id, { onDelete: 'set null' }),
    subject: jsonb('subject').$type<TrialSubject>().notNull(),
    settings: jsonb('settings').$type<PlaybackSettings>().notNull(),
    status: text('status').$type<TrialStatus>().notNull(),
    /** Why it ended, for every end but `done`. */
    outcome: text('outcome'),
    detail: text('detail'),
    slotCount: integer('slot_count').notNull(),
    conditions: jsonb('conditions').$type<TrialConditions>(),
    load: jsonb('load').$type<LoadSummary>(),
    summary: jsonb('summary').$type<PlaybackSummary>(),
    /** Bits of stages per slot to which a drop is charged. */
    charges: bytea('charges'),
    selfCheck: jsonb('self_check').$type<SelfCheckResult>(),
    /** Set to ask the runner to stop this trial. */
    cancelRequestedAt: time('cancel_requested_at'),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
  },
  (table) => [
    index('trials_created').on(table.createdAt),
    index('trials_status').on(table.status),
    index('trials_rig_kind').on(table.rigId, table.kind, table.createdAt),
    index('trials_content').on(table.rigId, sql`(${table.subject}->>'contentHash')`, table.createdAt),
    index('trials_timeline').on(table.rigId, sql`(${table.subject}->'timeline'->>'id')`, table.createdAt),
  ],
);

/** A trace in the pieces it was saved in: compressed columns of consecutive slots. */
export const traceBatches = pgTable(
  'trace_batches',
  {
    trialId: text('trial_id')
      .notNull()
      .references(() => trials.id, { onDelete: 'cascade' }),
    fromSlot: integer('from_slot').notNull(),
    slots: integer('slots').notNull(),
    data: bytea('data').notNull(),
  },
  (table) => [primaryKey({ columns: [table.trialId, table.fromSlot] })],
);

/** What the rig did while a trial of any kind ran, about twice a second. Rates in bytes per second, null where the system does not tell. */
export const samples = pgTable(
  'samples',
  {
    trialId: text('trial_id').notNull(),
    at: time('at').notNull(),
    trialLoad: doublePrecision('trial_load').notNull(),
    othersLoad: doublePrecision('others_load').notNull(),
    freeMemoryBytes: bigint('free_memory_bytes', { mode: 'number' }).notNull(),
    trialDiskBytesPerSecond: doublePrecision('trial_disk_rate'),
    othersDiskBytesPerSecond: doublePrecision('others_disk_rate'),
    networkBytesPerSecond: doublePrecision('network_rate'),
    /** Of the time in which the trial's threads were ready to run, that in which others had their core, 0 to 1; null where it was not kept. */
    lostShare: doublePrecision('lost_share'),
    /** Of the same time, that in which they waited for each other. */
    siblingShare: doublePrecision('sibling_share'),
    /** Processor time of the pulse's fixed work, µs; null where none was told. */
    pulseUs: doublePrecision('pulse_us'),
  },
  (table) => [index('samples_trial').on(table.trialId)],
);

/** The runner of each rig: where it serves live pictures, and that it is alive. */
export const runners = pgTable('runners', {
  rigId: text('rig_id')
    .primaryKey()
    .references(() => rigs.id),
  pid: integer('pid').notNull(),
  picturePort: integer('picture_port').notNull(),
  trialPid: integer('trial_pid'),
  seenAt: time('seen_at').notNull(),
});

/** General camera formats, as the ladder and the planner use them. */
export const cameraFormats = pgTable('camera_formats', {
  id: text('id').primaryKey(),
  position: integer('position').notNull(),
  name: text('name').notNull(),
  raster: text('raster').notNull().default(''),
  framesPerSecond: doublePrecision('frames_per_second').notNull(),
  codecClass: text('codec_class').notNull().default(''),
  bytesPerFrame: bigint('bytes_per_frame', { mode: 'number' }).notNull(),
  peakOverMean: doublePrecision('peak_over_mean').notNull().default(1),
});

export type StorageStatus = TrialStatus | 'paused';

/** What a storage trial was made on, kept with it so that it stays whole when a volume goes. */
export interface StorageSubject {
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

export interface StorageConditions {
  readonly rig: RigIdentity;
  readonly rigState: RigState;
  readonly cold: ColdProof | null;
  readonly writes: WriteWay | null;
  /** When other processes' load disturbed it: from and to, ms from the trial's first request. */
  readonly disturbedMs: readonly (readonly [number, number])[];
  readonly softwareVersion: string;
}

export type StorageResult =
  | { readonly kind: 'throughput'; readonly summary: ThroughputSummary }
  | { readonly kind: 'streams'; readonly summary: StreamsSummary }
  | { readonly kind: 'copy'; readonly summary: CopyResult };

/** Trials of a volume itself: throughput, streams carried, card copies. */
export const storageTrials = pgTable(
  'storage_trials',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    volumeId: text('volume_id').references(() => volumes.id, { onDelete: 'set null' }),
    kind: text('kind').$type<StorageSettings['kind']>().notNull(),
    subject: jsonb('subject').$type<StorageSubject>().notNull(),
    settings: jsonb('settings').$type<StorageSettings>().notNull(),
    status: text('status').$type<StorageStatus>().notNull(),
    outcome: text('outcome'),
    detail: text('detail'),
    conditions: jsonb('conditions').$type<StorageConditions>(),
    load: jsonb('load').$type<LoadSummary>(),
    /** Numbers of streams that a ramp has tried, in order. */
    rampStreams: jsonb('ramp_streams').$type<number[]>().notNull().default([]),
    /** The last word on how far it is, for pages that come back. */
    progress: jsonb('progress').$type<StorageProgress>(),
    result: jsonb('result').$type<StorageResult>(),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
  },
  (table) => [
    index('storage_trials_volume').on(table.volumeId, table.createdAt),
    index('storage_trials_status').on(table.status),
  ],
);

/** Requests of a storage trial in the pieces they were saved in: compressed columns. */
export const blockBatches = pgTable(
  'block_batches',
  {
    trialId: text('trial_id')
      .notNull()
      .references(() => storageTrials.id, { onDelete: 'cascade' }),
    fromBlock: integer('from_block').notNull(),
    blocks: integer('blocks').notNull(),
    data: bytea('data').notNull(),
  },
  (table) => [primaryKey({ columns: [table.trialId, table.fromBlock] })],
);

/** Files that a copy has finished. */
export const copyFiles = pgTable(
  'copy_files',
  {
    trialId: text('trial_id')
      .notNull()
      .references(() => storageTrials.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    modifiedMs: bigint('modified_ms', { mode: 'number' }).notNull(),
    outcome: text('outcome').$type<CopiedFile['outcome']>().notNull(),
    xxh64: text('xxh64'),
    hashedMs: bigint('hashed_ms', { mode: 'number' }).notNull(),
    problem: text('problem'),
  },
  (table) => [primaryKey({ columns: [table.trialId, table.path] })],
);

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

export interface DecodeConditions {
  readonly rig: RigIdentity;
  readonly rigState: RigState;
  readonly softwareVersion: string;
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

/** Trials of decoding alone: rates, decode support, streams. */
export const decodeTrials = pgTable(
  'decode_trials',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    clipId: text('clip_id').references(() => clips.id, { onDelete: 'set null' }),
    kind: text('kind').$type<DecodeSettings['kind']>().notNull(),
    /** Format class and device that a support trial is about: a cell of the matrix. */
    formatClass: text('format_class').notNull(),
    deviceId: text('device_id'),
    subject: jsonb('subject').$type<DecodeSubject>().notNull(),
    settings: jsonb('settings').$type<DecodeSettings>().notNull(),
    status: text('status').$type<TrialStatus>().notNull(),
    outcome: text('outcome'),
    detail: text('detail'),
    conditions: jsonb('conditions').$type<DecodeConditions>(),
    load: jsonb('load').$type<LoadSummary>(),
    progress: jsonb('progress').$type<DecodeProgress>(),
    record: jsonb('record').$type<DecodeRecord>(),
    result: jsonb('result').$type<DecodeResult>(),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
  },
  (table) => [
    index('decode_trials_clip').on(table.clipId),
    index('decode_trials_status').on(table.status),
    index('decode_trials_cell').on(table.formatClass, table.deviceId),
  ],
);

export type RenditionStatus = TrialStatus | 'paused';

/** What a batch of renditions is made with and where it goes. */
export interface RenditionSettings extends RenditionChoice {
  readonly volumeId: string;
  readonly volumeName: string;
  readonly simulated: boolean;
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

/** Batches of renditions. */
export const renditionJobs = pgTable(
  'rendition_jobs',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    settings: jsonb('settings').$type<RenditionSettings>().notNull(),
    status: text('status').$type<RenditionStatus>().notNull(),
    outcome: text('outcome'),
    conditions: jsonb('conditions').$type<DecodeConditions>(),
    load: jsonb('load').$type<LoadSummary>(),
    lanes: jsonb('lanes').$type<LanesMeasured>(),
    progress: jsonb('progress').$type<RenditionProgressNote>(),
    /** Time at work over all parts of the batch, ms. */
    workedMs: doublePrecision('worked_ms').notNull().default(0),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
  },
  (table) => [index('rendition_jobs_status').on(table.status)],
);

export type RenditionItemStatus = 'waiting' | 'running' | 'made' | 'present' | 'failed';

/** One rendition of a batch. */
export const renditionItems = pgTable(
  'rendition_items',
  {
    id: text('id').primaryKey(),
    jobId: text('job_id')
      .notNull()
      .references(() => renditionJobs.id, { onDelete: 'cascade' }),
    position: integer('position').notNull(),
    sourceClipId: text('source_clip_id').references(() => clips.id, { onDelete: 'set null' }),
    sourcePath: text('source_path').notNull(),
    sourceHash: text('source_hash'),
    sourceFormat: jsonb('source_format').$type<Format>().notNull(),
    sourceFrames: integer('source_frames').notNull(),
    sourceBytes: bigint('source_bytes', { mode: 'number' }).notNull(),
    /** Encoder and settings, so that the same is never made twice. */
    settingsKey: text('settings_key').notNull(),
    status: text('status').$type<RenditionItemStatus>().notNull(),
    outcome: text('outcome'),
    detail: text('detail'),
    /** Path below the volume's folder. */
    outputPath: text('output_path').notNull(),
    outputClipId: text('output_clip_id').references(() => clips.id, { onDelete: 'set null' }),
    work: jsonb('work').$type<RenditionWork>(),
    frameCheck: jsonb('frame_check').$type<FrameCheck>(),
  },
  (table) => [
    index('rendition_items_job').on(table.jobId, table.position),
    index('rendition_items_made').on(table.sourceHash, table.settingsKey),
  ],
);
