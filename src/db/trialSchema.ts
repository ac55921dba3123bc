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
import type { TrialKind } from '@/core/kinds/kinds';
import type { Format } from '@/core/media/format';
import type { Grade } from '@/core/playback/grade';
import type { FrameCheck } from '@/core/rendition/frameCheck';
import type { Doubt } from '@/core/rig/doubt';
import type { RenditionItemStatus, RenditionWork } from '@/core/rendition/work';
import { bytea, time } from './columns';
import type { LoadSummary } from '@/core/rig/load';
import type { Origin, TrialRow, TrialStatus } from './kinds';
import { clips, rigs } from './librarySchema';
import { plans } from './planSchema';
import type { CheckedFile, CopiedFile } from '@/core/storage/copiedFile';

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
    planId: text('plan_id').references(() => plans.id, { onDelete: 'set null' }),
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

/** Files that a verification was done with. */
export const checkedFiles = pgTable(
  'checked_files',
  {
    trialId: ofTrial(),
    path: text('path').notNull(),
    bytes: bigint('bytes', { mode: 'number' }),
    modifiedMs: bigint('modified_ms', { mode: 'number' }),
    outcome: text('outcome').$type<CheckedFile['outcome']>().notNull(),
    hash: text('hash'),
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

/** What a person says of a result; results themselves are never changed. */
export const annotations = pgTable('annotations', {
  /** A trial of any kind. */
  trialId: text('trial_id')
    .primaryKey()
    .references(() => trials.id, { onDelete: 'cascade' }),
  note: text('note').notNull().default(''),
  /** Why it does not count; null where it does. */
  excluded: text('excluded'),
  at: time('at').notNull().defaultNow(),
});
