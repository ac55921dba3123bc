import { usualCurrency } from '@/core/format';
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
  type AnyPgColumn,
} from 'drizzle-orm/pg-core';
import type { TrialKind } from '@/core/kinds/kinds';
import type { Format } from '@/core/media/format';
import type { ClipFaults } from '@/core/media/faults';
import type { FrameStructure } from '@/core/media/frameStructure';
import type { ClipIdentity } from '@/core/media/identity';
import type { Grade } from '@/core/playback/grade';
import type { FrameCheck } from '@/core/rendition/frameCheck';
import type { Doubt } from '@/core/rig/doubt';
import type { StorageModel } from '@/core/storage/model';
import type { Rational } from '@/core/time/rational';
import type { CodecSetup, SoundSetup } from '@/engine/media/streamFacts';
import type { RenditionItemStatus, RenditionWork } from '@/core/rendition/work';
import { bytea, time } from './columns';
import type { LoadSummary } from '@/core/rig/load';
import type { Origin, TrialRow, TrialStatus } from './kinds';
import { plans } from './planSchema';
import type { RigIdentity } from '@/core/rig/identity';
import type { VolumeFacts, VolumeKind } from '@/core/storage/volumeFacts';
import type { DeviceReport } from '@/core/decode/device';
import type { CopiedFile } from '@/core/storage/copiedFile';

export * from './kinds';
export * from './timelineSchema';
export * from './planSchema';

export const rigs = pgTable('rigs', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  /** What money is counted in (ISO 4217). */
  currency: text('currency').notNull().default(usualCurrency),
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
    /** Of the sound that runs play; null where it has none that can be read by byte range and decoded. */
    sound: jsonb('sound').$type<SoundSetup>(),
    startTimecode: text('start_timecode'),
    frames: integer('frames'),
    meanBitsPerSecond: doublePrecision('mean_bits_per_second'),
    peakBitsPerSecond: doublePrecision('peak_bits_per_second'),
    /** Frames that are not whole, as far as runs met them; null: none is known. */
    faults: jsonb('faults').$type<ClipFaults>(),
    footageId: text('footage_id').references(() => footage.id, { onDelete: 'set null' }),
    /** Whether a person put it where it is: `grouped` into its footage, or `alone`; null leaves it to the automatic grouping. */
    footageHand: text('footage_hand').$type<'grouped' | 'alone'>(),
    /** Rendered of a timeline by ourselves, and no media: no list, scan or footage has it. Null for what a scan found. */
    made: text('made').$type<'pre-render'>(),
    /** All that the library is searched by, and what to know of it in a few words each, as `listed.ts` makes them of the rest; null: not made yet. */
    words: text('words'),
    warnings: text('warnings')
      .array()
      .notNull()
      .default(sql`'{}'::text[]`),
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
  /** The packed table of its sound; null where it has none. */
  sound: bytea('sound'),
});

/** Trials of every kind. What differs between kinds is typed in `kinds.ts`. */
export const trials = pgTable(
  'trials',
  {
    id: text('id').primaryKey(),
    kind: text('kind').$type<TrialKind>().notNull(),
    rigId: text('rig_id')
      .notNull()
      .references(() => rigs.id),
    clipId: text('clip_id').references(() => clips.id, { onDelete: 'set null' }),
    /** Volumes that it reads from and writes to; they may be gone. */
    volumeIds: text('volume_ids')
      .array()
      .notNull()
      .default(sql`'{}'::text[]`),
    timelineId: text('timeline_id'),
    subject: jsonb('subject').$type<TrialRow['subject']>().notNull(),
    settings: jsonb('settings').$type<TrialRow['settings']>().notNull(),
    status: text('status').$type<TrialStatus>().notNull(),
    /** Why it ended, or its answer in a sentence. */
    outcome: text('outcome'),
    detail: text('detail'),
    conditions: jsonb('conditions').$type<TrialRow['conditions']>(),
    load: jsonb('load').$type<LoadSummary>(),
    /** The last word on how far it is, for pages that come back. */
    progress: jsonb('progress').$type<TrialRow['progress']>(),
    summary: jsonb('summary').$type<TrialRow['summary']>(),
    /** The series or matrix that made it, and the cell of it. */
    planId: text('plan_id').references((): AnyPgColumn => plans.id, { onDelete: 'set null' }),
    planCell: integer('plan_cell'),
    /** The first attempt at the same, where this is a further one after a bad end; it may be gone. */
    attemptOf: text('attempt_of'),
    origin: text('origin').$type<Origin>().notNull().default('measured'),
    /** Measured with a stand-in, or computed by a model. */
    simulated: boolean('simulated').notNull().default(false),
    demo: integer('demo').notNull().default(0),
    createdAt: time('created_at').notNull().defaultNow(),
    startedAt: time('started_at'),
    endedAt: time('ended_at'),
    /** What long lists show and are narrowed by, as `listed.ts` makes it of the rest; name null: not made yet. */
    name: text('name'),
    how: text('how').notNull().default(''),
    volumeNames: text('volume_names')
      .array()
      .notNull()
      .default(sql`'{}'::text[]`),
    grade: text('grade').$type<Grade | null>(),
    doubt: text('doubt').$type<Doubt['word'] | null>(),
  },
  (table) => [
    // Holds all that a list is narrowed by, so that counting and turning pages read nothing else.
    index('trials_listed').on(
      table.createdAt,
      table.id,
      table.kind,
      table.rigId,
      table.status,
      table.grade,
      table.doubt,
      table.timelineId,
      table.name,
    ),
    index('trials_status').on(table.status),
    index('trials_rig_kind').on(table.rigId, table.kind, table.createdAt),
    index('trials_rig_created').on(table.rigId, table.createdAt),
    index('trials_clip').on(table.clipId),
    index('trials_volumes').using('gin', table.volumeIds),
    index('trials_plan').on(table.planId),
    index('trials_attempts').on(table.attemptOf),
    index('trials_content').on(
      table.rigId,
      table.kind,
      sql`(${table.subject}->>'contentHash')`,
      table.createdAt,
    ),
    index('trials_timeline').on(table.rigId, table.kind, table.timelineId, table.createdAt),
  ],
);

const ofTrial = () =>
  text('trial_id')
    .notNull()
    .references(() => trials.id, { onDelete: 'cascade' });

/** What a trial measured that is no trace and no list of requests: passes, costs, requests of a scrub, probes. */
export const records = pgTable('records', {
  trialId: ofTrial().primaryKey(),
  record: jsonb('record').$type<NonNullable<TrialRow['record']>>().notNull(),
});

/** Of each slot of a trace the bits of the stages to which its drop is charged. */
export const slotCharges = pgTable('slot_charges', {
  trialId: ofTrial().primaryKey(),
  charges: bytea('charges').notNull(),
});

/** A trace in the pieces it was saved in: compressed columns of consecutive slots. */
export const traceBatches = pgTable(
  'trace_batches',
  {
    trialId: ofTrial(),
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
    trialId: ofTrial(),
    at: time('at').notNull(),
    trialLoad: doublePrecision('trial_load').notNull(),
    othersLoad: doublePrecision('others_load').notNull(),
    freeMemoryBytes: bigint('free_memory_bytes', { mode: 'number' }).notNull(),
    trialDiskBytesPerSecond: doublePrecision('trial_disk_rate'),
    othersDiskBytesPerSecond: doublePrecision('others_disk_rate'),
    networkBytesPerSecond: doublePrecision('network_rate'),
    /** Over the interfaces to the servers of the trial's volumes, and what the trial read and wrote; null where no volume is reached over the network. */
    linkBytesPerSecond: doublePrecision('link_rate'),
    trialMovedBytesPerSecond: doublePrecision('trial_moved_rate'),
    /** Of the time in which the trial's threads were ready to run, that in which others had their core, 0 to 1; null where it was not kept. */
    lostShare: doublePrecision('lost_share'),
    /** Of the same time, that in which they waited for each other. */
    siblingShare: doublePrecision('sibling_share'),
    /** Of the same time, that in which the system held them back to a share of the cores. */
    heldShare: doublePrecision('held_share'),
    /** What the processor's sensors told (see `SensorLook`). */
    clockGigahertz: doublePrecision('clock_gigahertz'),
    temperatureCelsius: doublePrecision('temperature_celsius'),
    throttled: boolean('throttled'),
    /** What the graphics told (see `GraphicsLook`). */
    graphicsLoad: doublePrecision('graphics_load'),
    graphicsMemoryBytes: bigint('graphics_memory_bytes', { mode: 'number' }),
    trialGraphicsLoad: doublePrecision('trial_graphics_load'),
    trialDecodeEngineLoad: doublePrecision('trial_decode_engine_load'),
    trialEncodeEngineLoad: doublePrecision('trial_encode_engine_load'),
    trialGraphicsMemoryBytes: bigint('trial_graphics_memory_bytes', { mode: 'number' }),
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

/** Requests of a storage trial in the pieces they were saved in: compressed columns. */
export const blockBatches = pgTable(
  'block_batches',
  {
    trialId: ofTrial(),
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
    trialId: ofTrial(),
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

/** One rendition of a batch. */
export const renditionItems = pgTable(
  'rendition_items',
  {
    id: text('id').primaryKey(),
    trialId: ofTrial(),
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
    index('rendition_items_trial').on(table.trialId, table.position),
    index('rendition_items_made').on(table.sourceHash, table.settingsKey),
  ],
);
