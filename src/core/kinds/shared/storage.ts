import type { ColdProof } from '../../media/coldProof';
import { fileName } from '../../media/fileName';
import { formatLabel, type Format } from '../../media/format';
import { plainName } from '../../simulated';
import type { StorageModel } from '../../storage/model';
import { modelLabel } from '../../storage/standInChoice';
import type { VolumeFacts, VolumeKind } from '../../storage/volumeFacts';
import type { CopySettings } from '../copy';
import type { Names, Words } from '../kind';
import type { StreamsSettings } from '../streamsCarried';
import type { ThroughputSettings } from '../throughput';
import type { VerificationSettings } from '../verification';
import type { RigConditions } from './conditions';

export type StorageSettings = ThroughputSettings | StreamsSettings | CopySettings | VerificationSettings;

/** How far a storage trial is. */
export interface StorageProgress {
  readonly phase: 'preparing' | 'measuring' | 'copying' | 'verifying';
  /** Repeat or step that runs, from 0; file number of a copy. */
  readonly step: number;
  readonly steps: number;
  /** Work done of all, 0 to 1. */
  readonly share: number;
  readonly bytes: number;
  /** Grows with every byte, also of preparations, and with every thread that has come up: what the watchdog looks at. */
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

/** How writes reach the device: past the system's cache, or through it and each waited for. */
export type WriteWay = 'direct' | 'synchronous';

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

/** What trials keep that measure a volume. */
export interface StorageShape {
  readonly subject: StorageSubject;
  readonly conditions: StorageConditions;
  readonly progress: StorageProgress;
}
export const storagePage = '/storage/trials';

export const storageNames = ({ volumeName, clip }: StorageSubject, how: string): Names => ({
  subject: clip ? fileName(clip.path) : volumeName,
  volumes: [volumeName],
  how,
});

export const storageUnder = ({
  subject: { volumeName, standIn, link, clip },
}: Pick<StorageShape, 'subject'>): Words => ({
  Volume: plainName(volumeName, standIn !== null),
  'Volume model': standIn ? modelLabel(standIn) : 'none',
  Link: link || 'not reported',
  ...(clip ? { Content: fileName(clip.path), Format: formatLabel(clip.format) } : {}),
});
