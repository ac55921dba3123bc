import { usualCurrency } from '@/core/format';
import { sql } from 'drizzle-orm';
import { bigint, boolean, doublePrecision, index, integer, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import type { Format } from '@/core/media/format';
import type { ClipFaults } from '@/core/media/faults';
import type { FrameStructure } from '@/core/media/frameStructure';
import type { ClipIdentity } from '@/core/media/identity';
import type { StorageModel } from '@/core/storage/model';
import type { Rational } from '@/core/time/rational';
import type { CodecSetup, SoundSetup } from '@/engine/media/streamFacts';
import { bytea, time } from './columns';
import type { RigIdentity } from '@/core/rig/identity';
import type { VolumeFacts, VolumeKind } from '@/core/storage/volumeFacts';
import type { DeviceReport } from '@/core/decode/device';

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

/** Hash lists that folders were held against, as their files have them. */
export const hashLists = pgTable('hash_lists', {
  /** SHA-256 of its text: the same list is kept once. */
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  text: text('text').notNull(),
  createdAt: time('created_at').notNull().defaultNow(),
});
