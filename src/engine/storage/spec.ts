import type { StorageModel } from '@/core/storage/model';
import type { CopyResult } from '@/core/storage/copy';
import type { Rational } from '@/core/time/rational';
import type { CodecSetup } from '../media/streamFacts';
import type { Failed, Finished } from '../processes';
import type { ColdProof } from '@/core/media/coldProof';
import type { CheckedFile, CopiedFile } from '@/core/storage/copiedFile';
import type { ReadHashes } from '@/core/formats/hashLists/read';
import type { VerificationResult } from '@/core/storage/heldAgainst';
import type { ThroughputSettings } from '@/core/kinds/throughput';
import type { StreamsSettings } from '@/core/kinds/streamsCarried';
import type { StorageProgress, WriteWay } from '@/core/kinds/shared/storage';

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
  readonly setup: Pick<CodecSetup, 'sequence' | 'parts'>;
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
    }
  | {
      readonly kind: 'verification';
      readonly trialId: string;
      /** The folder that the list is of. */
      readonly volume: VolumeAccess;
      readonly list: Pick<ReadHashes, 'by' | 'files' | 'folders' | 'ignored'>;
      /** File name of the list: where it lies in the folder it is no part of what it names. */
      readonly listName: string;
      /** Files that an earlier part of this verification was done with. */
      readonly finished: readonly CheckedFile[];
    };

export type { CopyResult };

export type FromStorage =
  | { readonly type: 'prepared'; readonly cold: ColdProof | null; readonly writes: WriteWay | null }
  | { readonly type: 'blocks'; readonly from: number; readonly count: number; readonly data: Uint8Array }
  | { readonly type: 'step'; readonly streams: number }
  | { readonly type: 'copied'; readonly file: CopiedFile }
  | { readonly type: 'checked'; readonly file: CheckedFile }
  | { readonly type: 'progress'; readonly progress: StorageProgress }
  | (Finished & { readonly copy: CopyResult | null; readonly verification: VerificationResult | null })
  | Failed;

export type ToStorage =
  | { readonly type: 'start'; readonly spec: StorageSpec }
  | { readonly type: 'cancel' }
  | { readonly type: 'pause' };
