import { taskStages } from '@/core/tasks/pipeline';
import type { TaskWindows } from '@/core/tasks/windows';
import type { DecodeSpec, FromDecode } from './decode/spec';
import type { FromTrial, TrialSpec } from './playback/spec';
import type { FromRendition, RenditionSpec } from './rendition/spec';
import type { FromTimelineTrial, TimelineTrialSpec } from './scrub/spec';
import type { FromStorage, StorageSpec } from './storage/spec';
import type { FromTask, TaskSpec } from './task/spec';

/** What every measuring process says at its end. */
export interface Finished {
  readonly type: 'finished';
  /** Asked to stop before it was through; null where it went to its end. */
  readonly stopped: 'cancelled' | 'paused' | null;
}
export interface Failed {
  readonly type: 'failed';
  readonly message: string;
  readonly detail: string;
}

/** What each measuring process is told and tells. All are also told `cancel`, and may be told `pause`. */
export interface ProcessTypes {
  trial: { spec: TrialSpec; says: FromTrial };
  storage: { spec: StorageSpec; says: FromStorage };
  decode: { spec: DecodeSpec; says: FromDecode };
  timeline: { spec: TimelineTrialSpec; says: FromTimelineTrial };
  rendition: { spec: RenditionSpec; says: FromRendition };
  task: { spec: TaskSpec; says: FromTask };
}
export type ProcessName = keyof ProcessTypes;

/** By what a watchdog knows that a process gets on. */
export interface Progress<Says> {
  /** What moves, in words. */
  readonly piece: 'frame' | 'block';
  /** It can stop so that it goes on later by itself; one that cannot is cancelled instead. */
  readonly pauses?: boolean;
  /** A mark that differs from the last one when something has moved; `moved` always does, undefined never. */
  mark(message: Says): number | string | typeof moved | undefined;
}
const moved = Symbol('moved');

export const progressOf: { readonly [Name in ProcessName]: Progress<ProcessTypes[Name]['says']> } = {
  trial: {
    piece: 'frame',
    mark: (message) =>
      message.type === 'counters'
        ? message.counters.settled
        : message.type === 'picture' || message.type === 'faults'
          ? undefined
          : moved,
  },
  // Time passes without a block too; only bytes are progress.
  storage: {
    piece: 'block',
    pauses: true,
    mark: (message) => (message.type === 'progress' ? message.progress.moved : moved),
  },
  decode: {
    piece: 'frame',
    mark: (message) => (message.type === 'progress' ? message.progress.frames : moved),
  },
  timeline: { piece: 'frame', mark: () => moved },
  task: {
    piece: 'frame',
    mark: (message) =>
      message.type === 'progress'
        ? `${message.progress.phase} ${message.progress.frames}`
        : message.type === 'record' && message.record.windows
          ? stagesMoved(message.record.windows)
          : undefined,
  },
  rendition: {
    piece: 'frame',
    mark: (message) =>
      message.type === 'progress' ? `${message.progress.phase} ${message.progress.frames}` : undefined,
  },
};

/** Grows with every frame that any stage is done with, and with every byte that is written. */
function stagesMoved({ stages, bytesWritten }: TaskWindows): string {
  const frames = taskStages.map((stage) => stages[stage].frames.at(-1) ?? 0);
  return [...frames, bytesWritten.reduce((sum, bytes) => sum + bytes, 0)].join(' ');
}
