import { endedStatuses } from '@/core/kinds/ends';
import type {
  DecodeKind,
  Kinds,
  PlayedKind,
  StorageKind,
  TaskKind,
  TimelineKind,
  TrialKind,
} from '@/core/kinds/kinds';
import type { LoadSummary } from '@/core/rig/load';

export const trialStatuses = ['queued', 'running', 'paused', ...endedStatuses] as const;
export type TrialStatus = (typeof trialStatuses)[number];

/** What a trial of a kind keeps, as its columns hold it: what is not there yet is null. */
interface KindColumns<Kind extends TrialKind> {
  readonly subject: Kinds[Kind]['subject'];
  readonly settings: Kinds[Kind]['settings'];
  readonly conditions: Kinds[Kind]['conditions'] | null;
  readonly progress: Kinds[Kind]['progress'] | null;
  /** What was measured, where it is no trace and no list of requests. */
  readonly record: Kinds[Kind]['record'] | null;
  readonly summary: Kinds[Kind]['summary'] | null;
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
  /** The first attempt at the same, where this is a further one after a bad end. */
  readonly attemptOf?: string | null;
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
  [One in Kind]: SharedColumns & { readonly kind: One } & KindColumns<One>;
}[Kind];

/** A trial without its record, for lists. */
export type TrialListRow<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: SharedColumns & { readonly kind: One } & Omit<KindColumns<One>, 'record'>;
}[Kind];

/** A trial that is to be made: what it is made of, without identity. */
export type NewTrial<Kind extends TrialKind = TrialKind> = {
  [One in Kind]: Pick<KindColumns<One>, 'subject' | 'settings'> & {
    readonly kind: One;
    readonly progress?: KindColumns<One>['progress'];
  } & Partial<Pick<SharedColumns, 'clipId' | 'volumeIds' | 'timelineId' | 'simulated' | 'demo'>>;
}[Kind];

/** A change of a trial's columns. */
export type TrialChange<Kind extends TrialKind = TrialKind> = Partial<
  Omit<SharedColumns, 'id'> & Omit<KindColumns<Kind>, 'record'>
>;

export type PlayedTrial = TrialRow<PlayedKind>;
export type TimelineTrial = TrialRow<TimelineKind>;
export type DecodeTrial = TrialRow<DecodeKind>;
export type StorageTrial = TrialRow<StorageKind>;
export type TaskTrial = TrialRow<TaskKind>;
