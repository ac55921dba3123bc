import type { StorageModel } from '@/core/storage/model';
import type { CopyResult } from '@/core/storage/copy';
import type { Rational } from '@/core/time/rational';
import type { ColdProof } from '../media/coldFile';
import type { Failed, Finished } from '../processes';

export const throughputTests = [
  'sequential-read',
  'sequential-write',
  'frame-paced',
  'random-read',
  'mixed',
] as const;
export type ThroughputTest = (typeof throughputTests)[number];

export interface ThroughputSettings {
  readonly kind: 'throughput';
  readonly test: ThroughputTest;
  readonly blockBytes: number;
  /** Each repeat ends when it has moved so many bytes or taken so long, whichever is first. */
  readonly bytes: number;
  readonly seconds: number;
  readonly repeats: number;
  /** Readers side by side; frame-paced only. */
  readonly streams: number;
  /** The clip that is read, or null for a test file of Navvy's own. */
  readonly clipId: string | null;
  readonly clipPath: string | null;
}

export interface StreamsSettings {
  readonly kind: 'streams-carried';
  readonly clipId: string;
  readonly clipPath: string;
  /** How long each number of streams is played. */
  readonly seconds: number;
  readonly mostStreams: number;
}

export interface CopySettings {
  readonly kind: 'copy';
  /** Folder below the source volume; empty for all of it. */
  readonly folder: string;
  readonly destinations: readonly {
    readonly volumeId: string;
    readonly volumeName: string;
    readonly folder: string;
    readonly simulated: boolean;
  }[];
  readonly verify: boolean;
}

export type StorageSettings = ThroughputSettings | StreamsSettings | CopySettings;

/** Whether a test writes to the volume it measures, its own test file included. */
export function writesTestFiles({ test, clipId }: Pick<ThroughputSettings, 'test' | 'clipId'>): boolean {
  return test === 'sequential-write' || test === 'mixed' || clipId === null;
}

/** Bytes a test has on the volume at most. */
export function testFileBytes({
  test,
  clipId,
  bytes,
}: Pick<ThroughputSettings, 'test' | 'clipId' | 'bytes'>): number {
  return (
    (test === 'sequential-write' || clipId !== null ? 0 : bytes) +
    (test === 'sequential-write' || test === 'mixed' ? bytes : 0)
  );
}

/** A place to read from or write to. */
export interface VolumeAccess {
  readonly path: string;
  readonly standIn: StorageModel | null;
}

/** A real file to read, with its packet pattern where it is a clip. */
export interface ReadSource {
  readonly path: string;
  readonly packets: Uint8Array;
  readonly rate: Rational;
}

export interface CopiedFile {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  /** `copied`: written and, where asked, verified. `present`: it was there with the same content. */
  readonly outcome: 'copied' | 'present' | 'conflict' | 'damaged';
  readonly xxh64: string | null;
  readonly hashedMs: number;
  readonly problem: string | null;
}

/** All that a storage process needs; it never asks the database. */
export type StorageSpec =
  | {
      readonly kind: 'throughput';
      readonly trialId: string;
      readonly volume: VolumeAccess;
      readonly settings: ThroughputSettings;
      readonly source: ReadSource | null;
    }
  | {
      readonly kind: 'streams-carried';
      readonly trialId: string;
      readonly volume: VolumeAccess;
      readonly settings: StreamsSettings;
      readonly source: ReadSource;
    }
  | {
      readonly kind: 'copy';
      readonly trialId: string;
      readonly source: VolumeAccess;
      readonly destinations: readonly VolumeAccess[];
      readonly verify: boolean;
      readonly softwareVersion: string;
      /** Files that an earlier part of this copy finished. */
      readonly finished: readonly CopiedFile[];
    };

/** How far a storage trial is. */
export interface StorageProgress {
  readonly phase: 'preparing' | 'measuring' | 'copying' | 'verifying';
  /** Repeat or step that runs, from 0; file number of a copy. */
  readonly step: number;
  readonly steps: number;
  /** Work done of all, 0 to 1. */
  readonly share: number;
  readonly bytes: number;
  /** Grows with every byte, also of preparations: what the watchdog looks at. */
  readonly moved: number;
  /** Bytes per second since the last report. */
  readonly readRate: number;
  readonly writeRate: number;
  /** ms since the trial's first request. */
  readonly atMs: number;
  /** Milliseconds left where the process itself knows; null leaves it to the share. */
  readonly msLeft: number | null;
  /** What is under way, in words. */
  readonly note: string;
}

export type { CopyResult };

/** How writes reach the device: past the system's cache, or through it and each waited for. */
export type WriteWay = 'direct' | 'synchronous';

export type FromStorage =
  | { readonly type: 'prepared'; readonly cold: ColdProof | null; readonly writes: WriteWay | null }
  | { readonly type: 'blocks'; readonly from: number; readonly count: number; readonly data: Uint8Array }
  | { readonly type: 'step'; readonly streams: number }
  | { readonly type: 'copied'; readonly file: CopiedFile }
  | { readonly type: 'progress'; readonly progress: StorageProgress }
  | (Finished & { readonly copy: CopyResult | null })
  | Failed;

export type ToStorage =
  | { readonly type: 'start'; readonly spec: StorageSpec }
  | { readonly type: 'cancel' }
  | { readonly type: 'pause' };
