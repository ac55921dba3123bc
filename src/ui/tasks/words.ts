import type { ClipOpening } from '@/core/tasks/opening';
import { count } from '@/core/format';
import type { TaskProgress } from '@/core/kinds/shared/task';
import type { TaskStage } from '@/core/tasks/pipeline';

/** Stages of a task, with the colour that they have in every picture of it. */
export const stageStyles: Readonly<Record<TaskStage, { readonly word: string; readonly colour: string }>> = {
  read: { word: 'Read', colour: 'var(--cause-read)' },
  decode: { word: 'Decode', colour: 'var(--cause-decode)' },
  process: { word: 'Process', colour: 'var(--cause-process)' },
  encode: { word: 'Encode', colour: 'var(--stage-encode)' },
  write: { word: 'Write', colour: 'var(--stage-write)' },
};

/** What a task does at the moment, as its heading says it. */
export function nowWords(progress: TaskProgress | null): string {
  if (!progress || progress.phase === 'opening') return 'Opening the media';
  const { phase, frames, total } = progress;
  const done = `${count(frames)} of ${count(total)} frames`;
  return {
    preparing: `Not measured: ${done} prepared for the simulated encoder`,
    working: `${done} written`,
    finishing: `${done} written, closing the file`,
    proving: `${done} decoded again to prove them`,
  }[phase];
}

/** Figures of a clip's opening as pages name them. */
export const clipOpeningNames: Readonly<Record<keyof ClipOpening, string>> = {
  firstByteMs: 'First byte',
  indexMs: 'Index',
  pictureMs: 'First picture',
};

/** Said of an opening whose files could not be put out of the system's cache. */
export const perhapsWarmWords = 'perhaps out of memory: the cache could not be emptied';
