import type { EndedStatus } from '../kinds/ends';
import type { Kinds, TrialKind } from '../kinds/kinds';
import type { CellAddress } from '../plan/matrix';
import type { CellLabels, PlanSettings } from '../plan/plan';
import type { Format } from '../media/format';
import type { FrameCheck } from '../rendition/frameCheck';
import type { RenditionItemStatus, RenditionWork } from '../rendition/work';
import type { GraphicsLook } from '../rig/graphics';
import type { RigIdentity } from '../rig/identity';
import type { LoadSummary } from '../rig/load';
import type { SensorLook } from '../rig/sensors';
import type { CheckedFile, CopiedFile } from '../storage/copiedFile';
import type { StorageModel } from '../storage/model';
import type { VolumeFacts, VolumeKind } from '../storage/volumeFacts';
import type { Timeline } from '../timeline/model';

/*
 * What a result bundle holds. `./navvy openapi` makes `docs/result-bundle.schema.json` of these types with what stands at
 * their fields after an @, and every bundle that comes in is held against it: what is not as it is written here is refused.
 */

/** Name and version of the result bundle; `docs/result-bundle.md` describes it. */
export const bundleFormat = 'navvy-results';
export const bundleVersion = 3;

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

/** A colour table that timelines refer to, as the text of its `.cube` file. */
export interface BundleLook {
  readonly id: Id;
  readonly name: Name;
  readonly cube: string;
}

/** A state of a timeline that was named or played. */
export interface BundleTimelineVersion {
  /** @minimum 1 */
  readonly number: Count;
  readonly name?: string | null;
  readonly document: Timeline;
  readonly createdAt: Time;
}

/** A timeline as it was last edited, with the versions that its trials played. */
export interface BundleTimeline {
  readonly id: Id;
  readonly name: Name;
  readonly document: Timeline;
  readonly versions?: readonly BundleTimelineVersion[];
  readonly createdAt: Time;
  readonly updatedAt: Time;
  /** Removed from the list; trials that played it are left. */
  readonly removed?: boolean;
}

/** One condition of a matrix, or what a series repeats. */
export interface BundleCell {
  readonly cell: Count;
  readonly address: CellAddress;
  readonly labels: CellLabels;
  /** @minimum 0 */
  readonly expectedMs: number;
}

/** A run of a plan. */
export interface BundleStep {
  readonly position: Count;
  readonly cell: Count;
  readonly repeat: Count;
  readonly status: 'done' | 'failed' | 'skipped' | 'cancelled';
  /** The trial that it made; it may be gone. */
  readonly trialId?: string | null;
  readonly attempts: Count;
  readonly outcome?: string | null;
  /** Others disturbed it, or the machine was unsteady. */
  readonly inDoubt: boolean;
  /** @format date-time */
  readonly startedAt?: string | null;
  /** @format date-time */
  readonly endedAt?: string | null;
}

/** A series or matrix: what it asked, its conditions, and what became of each of its runs. */
export interface BundlePlan {
  readonly id: Id;
  readonly name: Name;
  /** Which ready-made question it answers, `own`, or `series` for repeats of one trial. */
  readonly question: Name;
  readonly settings: PlanSettings;
  readonly status: 'done' | 'cancelled';
  readonly createdAt: Time;
  /** @format date-time */
  readonly startedAt?: string | null;
  /** @format date-time */
  readonly endedAt?: string | null;
  readonly cells: readonly BundleCell[];
  readonly steps: readonly BundleStep[];
}

/** @pattern ^[0-9a-f]{64}$ */
type Hash = string;

/**
 * SHA-256 of what a bundle holds, each of the UTF-8 text of its JSON in canonical form (RFC 8785): of every entry of its
 * lists, in their order, and of all the rest with these hashes. Nothing can be changed, added or left out with all of them right.
 */
export interface BundleHashes {
  readonly volumes: readonly Hash[];
  readonly looks: readonly Hash[];
  readonly timelines: readonly Hash[];
  readonly plans: readonly Hash[];
  readonly trials: readonly Hash[];
  /** Of the bundle without its lists and without this field. */
  readonly whole: Hash;
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

/** A file of a verification. */
export interface BundleChecked extends CheckedFile {
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
  readonly checked?: readonly BundleChecked[];
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
  /** The series or matrix that made it, where the bundle holds it, and the cell of it. */
  readonly planId?: string | null;
  /**
   * @minimum 0
   * @maximum 2147483647
   */
  readonly planCell?: number | null;
  /** The first attempt at the same, where this is a further one after a bad end; it may be gone. */
  readonly attemptOf?: string | null;
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
  readonly looks?: readonly BundleLook[];
  readonly timelines?: readonly BundleTimeline[];
  readonly plans?: readonly BundlePlan[];
  readonly hashes: BundleHashes;
}

export interface ResultBundle extends BundleHead {
  readonly trials?: readonly BundleTrial[];
}

/** What the schema is made of: the head, and a trial of each kind. @public */
export interface BundleParts {
  readonly head: BundleHead;
  readonly trials: { readonly [Kind in TrialKind]: BundleTrialOf<Kind> };
}
