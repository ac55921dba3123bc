import type { EndedStatus } from '../kinds/ends';
import type { Kinds, TrialKind } from '../kinds/kinds';
import type { Format } from '../media/format';
import type { FrameCheck } from '../rendition/frameCheck';
import type { RenditionItemStatus, RenditionWork } from '../rendition/work';
import type { GraphicsLook } from '../rig/graphics';
import type { RigIdentity } from '../rig/identity';
import type { LoadSummary } from '../rig/load';
import type { SensorLook } from '../rig/sensors';
import type { CopiedFile } from '../storage/copiedFile';
import type { StorageModel } from '../storage/model';
import type { VolumeFacts, VolumeKind } from '../storage/volumeFacts';

/*
 * What a result bundle holds. `./navvy openapi` makes `docs/result-bundle.schema.json` of these types with what stands at
 * their fields after an @, and every bundle that comes in is held against it: what is not as it is written here is refused.
 */

/** Name and version of the result bundle; `docs/result-bundle.md` describes it. */
export const bundleFormat = 'navvy-results';
export const bundleVersion = 2;

/** @pattern ^[A-Za-z0-9][\w.:-]{0,159}$ */
type Id = string;
/**
 * @minLength 1
 * @maxLength 1000
 */
type Name = string;
/** @format date-time */
type Time = string;
/**
 * @TJS-type integer
 * @minimum 0
 * @maximum 2147483647
 */
type Count = number;
/**
 * @TJS-type integer
 * @minimum 0
 * @maximum 9007199254740991
 */
type Bytes = number;
/** @pattern ^[A-Za-z0-9+/]*={0,2}$ */
type Base64 = string;

export interface BundleRig {
  readonly id: Id;
  readonly name: Name;
  readonly identity: RigIdentity;
  /** Computed by a model, not measured. */
  readonly simulated?: boolean;
}

export interface BundleVolume {
  readonly id: Id;
  readonly name: Name;
  readonly kind: VolumeKind;
  readonly link?: string | null;
  readonly notes?: string | null;
  readonly price?: number | null;
  /** The model of a simulated volume; null for a real one. */
  readonly standIn?: StorageModel | null;
  readonly facts?: VolumeFacts | null;
  readonly cacheBytes?: Bytes;
}

/** Consecutive slots of a trace: base64 of gzip of packed columns. */
export interface TracePiece {
  readonly fromSlot: Count;
  readonly slots: Count;
  readonly data: Base64;
}

/** Requests of a volume: base64 of gzip of packed columns. */
export interface BlockPiece {
  readonly fromBlock: Count;
  readonly blocks: Count;
  readonly data: Base64;
}

/** What the rig did at one moment. Rates in bytes per second, null where the system does not tell. */
export interface BundleSample extends Partial<SensorLook>, Partial<GraphicsLook> {
  readonly at: Time;
  readonly trialLoad: number;
  readonly othersLoad: number;
  readonly freeMemoryBytes: Bytes;
  readonly trialDiskBytesPerSecond?: number | null;
  readonly othersDiskBytesPerSecond?: number | null;
  readonly networkBytesPerSecond?: number | null;
  readonly lostShare?: number | null;
  readonly siblingShare?: number | null;
  readonly heldShare?: number | null;
  readonly pulseUs?: number | null;
  /**
   * @minimum 0
   * @maximum 9007199254740991
   */
  readonly graphicsMemoryBytes?: number | null;
  /**
   * @minimum 0
   * @maximum 9007199254740991
   */
  readonly trialGraphicsMemoryBytes?: number | null;
}

/** A file of a copy. */
export interface BundleFile extends CopiedFile {
  readonly bytes: Bytes;
  readonly modifiedMs: Bytes;
  readonly hashedMs: Bytes;
}

/** A rendition of a batch. */
export interface BundleItem {
  readonly position: Count;
  readonly sourcePath: string;
  readonly sourceHash?: string | null;
  readonly sourceFormat: Format;
  readonly sourceFrames: Count;
  readonly sourceBytes: Bytes;
  readonly settingsKey: string;
  readonly status: RenditionItemStatus;
  readonly outcome?: string | null;
  readonly detail?: string | null;
  readonly outputPath: string;
  readonly work?: RenditionWork | null;
  readonly frameCheck?: FrameCheck | null;
}

/** What was recorded of a trial, by the shape of the record. */
export interface Recorded<Kept> {
  readonly traces?: readonly TracePiece[];
  /** @maxItems 1 */
  readonly charges?: readonly { readonly charges: Base64 }[];
  readonly blocks?: readonly BlockPiece[];
  readonly files?: readonly BundleFile[];
  readonly items?: readonly BundleItem[];
  /** @maxItems 1 */
  readonly records?: [Kept] extends [never] ? readonly [] : readonly { readonly record: Kept }[];
  readonly samples?: readonly BundleSample[];
}

/** What a person noted beside a result. */
export interface BundleNote {
  /** @maxLength 10000 */
  readonly note?: string | null;
  /**
   * Why it does not count; null: it does.
   * @maxLength 10000
   */
  readonly excluded?: string | null;
}

/** What trials of all kinds say. Times are ISO 8601. */
interface TrialFacts {
  readonly id: Id;
  readonly status: EndedStatus;
  readonly load?: LoadSummary | null;
  /** Its answer, or why it did not come to its end. */
  readonly outcome?: string | null;
  readonly detail?: string | null;
  /** Volumes that it read from and wrote to. */
  readonly volumeIds?: readonly string[];
  readonly timelineId?: string | null;
  /** Measured with a stand-in, or computed by a model. */
  readonly simulated?: boolean;
  readonly createdAt: Time;
  /** @format date-time */
  readonly startedAt?: string | null;
  /** @format date-time */
  readonly endedAt?: string | null;
  readonly annotation?: BundleNote | null;
}

/** An ended trial of one kind, as it was recorded. */
export interface BundleTrialOf<Kind extends TrialKind> extends TrialFacts {
  readonly kind: Kind;
  readonly subject: Kinds[Kind]['subject'];
  readonly settings: Kinds[Kind]['settings'];
  readonly conditions?: Kinds[Kind]['conditions'] | null;
  readonly progress?: Kinds[Kind]['progress'] | null;
  readonly summary?: Kinds[Kind]['summary'] | null;
  readonly recorded?: Recorded<Kinds[Kind]['record']>;
}

/** An ended trial of one kind, or several. */
export type BundleTrial<Kind extends TrialKind = TrialKind> = { [One in Kind]: BundleTrialOf<One> }[Kind];

/** All of a bundle but its trials. */
export interface BundleHead {
  readonly format: typeof bundleFormat;
  readonly version: typeof bundleVersion;
  readonly exportedAt: Time;
  /** Version of Navvy that measured. */
  readonly softwareVersion?: string;
  readonly rig: BundleRig;
  readonly volumes?: readonly BundleVolume[];
}

export interface ResultBundle extends BundleHead {
  readonly trials?: readonly BundleTrial[];
}

/** What the schema is made of: the head, and a trial of each kind. @public */
export interface BundleParts {
  readonly head: BundleHead;
  readonly trials: { readonly [Kind in TrialKind]: BundleTrialOf<Kind> };
}
