import type { TaskProgress, TaskRecord } from '@/core/kinds/shared/task';
import type { WorkedIn } from '@/core/playback/settings';
import type { StorageModel } from '@/core/storage/model';
import type { AnalysisChoice } from '@/core/tasks/analysis';
import type { ExportChoice } from '@/core/tasks/exportCodecs';
import type { TaskStage } from '@/core/tasks/pipeline';
import type { Failed, Finished } from '../processes';
import type { CourseSpec } from '../timeline/spec';

/** All that a task process needs; it never asks the database. */
export interface TaskSpec extends WorkedIn {
  readonly trialId: string;
  readonly source: CourseSpec;
  /** What is worked out of its pictures before they are written; absent: they are written as they are. */
  readonly analysis?: AnalysisChoice;
  /** How its pictures and sound are written. */
  readonly output: ExportChoice;
  /** Device that encodes, by its id; null or absent: software. */
  readonly device?: string | null;
  /** Of a stand-in encoder: where that lies what it gives out, and whether it is there: a process before makes it. Absent: the encoder is real. */
  readonly ahead?: { readonly folder: string; readonly isMade: boolean };
  /** Hold the pictures of the result against those handed to the encoder. */
  readonly likeness: boolean;
  /** Threads of decoders, effects and encoder; 0: one per core. */
  readonly threads: number;
  readonly warm: boolean;
  /** Folder of the target volume that the result is kept in; null: it is removed. */
  readonly keepIn: string | null;
  readonly target: {
    /** Folder of the volume. */
    readonly path: string;
    /** The model of a simulated volume, which paces every write. */
    readonly standIn: StorageModel | null;
  };
  /** Name of the result without its ending, where it is kept. */
  readonly name: string;
  readonly startTimecode: string | null;
  /** A stage that is held for so long at every frame, for tests of what is said to have held a task back. */
  readonly slowed?: { readonly stage: TaskStage; readonly us: number };
}

export type FromTask =
  | { readonly type: 'progress'; readonly progress: TaskProgress }
  | { readonly type: 'record'; readonly record: Partial<TaskRecord> }
  | { readonly type: 'picture'; readonly frame: number; readonly jpeg: Uint8Array }
  | (Finished & { readonly peakMemoryBytes: number })
  | Failed;

export type ToTask =
  | { readonly type: 'start'; readonly spec: TaskSpec }
  | { readonly type: 'cancel' }
  | { readonly type: 'viewers'; readonly count: number };
