import { answerOf, type TaskKind } from '@/core/kinds/kinds';
import { noTaskRecord, stoppedAt, type TaskProgress, type TaskRecord } from '@/core/kinds/shared/task';
import { fileName } from '@/core/media/fileName';
import { isStandInEncoder } from '@/core/tasks/encodeDevices';
import { summariseTask } from '@/core/tasks/taskSummary';
import type { WorkedIn } from '@/core/playback/settings';
import { slotTimecode } from '@/core/timeline/subject';
import type { TrialRow } from '@/db/kinds';
import { getVolume } from '@/db/queries/volumes';
import { EngineError } from '@/engine/errors';
import { aheadFolder, removeAhead } from '@/engine/task/aheadFile';
import { removeScratch } from '@/engine/task/scratch';
import type { FromTask, TaskSpec } from '@/engine/task/spec';
import { inspectVolume } from '@/engine/volume';
import { noteRunFaults } from '../../../library/clipFaults';
import { plainFinding } from '../../../trials/findings';
import { allowedRoots } from '../../../library/roots';
import { playedSpec } from '../../../timelines/timelineMedia';
import { retryWhileAway } from '../../shared/retryWhileAway';
import type { KindRunner, Measured, TrialEnd, TrialRun } from '../../trialRun';

/** What is told of a task besides what it works on: how it is written, and what becomes of it. */
export type TaskWork = Pick<
  TaskSpec,
  'analysis' | 'output' | 'device' | 'likeness' | 'threads' | 'warm' | 'keepIn' | keyof WorkedIn
> & {
  /** Behind the name of what was worked on: the name of the result. */
  readonly suffix: string;
};

interface TaskKindRunner<Kind extends TaskKind> {
  readonly work: (trial: TrialRow<Kind>) => TaskWork;
  /** Pictures that are made; absent: as many as it works on. */
  readonly frames?: (trial: TrialRow<Kind>) => number;
  /** What is done with a result that was kept. @throws EngineError where it cannot be used */
  readonly keep?: (
    trial: TrialRow<Kind>,
    made: NonNullable<TaskRecord['made']>,
    run: TrialRun<Kind>,
  ) => Promise<void>;
  /** Removes what was kept without having been taken in. */
  readonly sweep?: (trial: TrialRow<Kind>, folder: string) => Promise<void>;
}

/** A task by a process of its own; what it measured is kept as it comes, so that a hang or crash still tells how far it was, and why it was slow. */
export function taskKind<Kind extends TaskKind>({
  work,
  frames,
  keep,
  sweep,
}: TaskKindRunner<Kind>): KindRunner<Kind> {
  return {
    async prepare(trial) {
      const spec = await taskSpecOf(trial, work(trial));
      return {
        volumeIds: trial.volumeIds,
        before: (run) =>
          encodeAhead(run, spec, (progress) => {
            run.reach(progress);
            run.tell(progress);
          }),
        measure: async (run) => {
          const { end, record, ...measured } = await measure(run, trial, measuredSpec(spec));
          const { made } = record;
          if (end.kind === 'done' && made?.keptAs) await keep?.(trial, made, run);
          return { end, ...measured };
        },
      };
    },
    judge(trial, { status, outcome }) {
      const { timeline } = trial.subject;
      const summary =
        trial.record &&
        summariseTask(trial.record, {
          total: frames?.(trial) ?? timeline.course.slots,
          rate: timeline.rate,
        });
      if (status === 'done') {
        const answer = summary && answerOf(plainFinding({ ...trial, summary } as TrialRow<TaskKind>));
        return Promise.resolve({ summary, outcome: answer ?? outcome });
      }
      const place = trial.progress && stoppedAt(trial.progress);
      return Promise.resolve({ summary, outcome: [outcome, place].filter(Boolean).join(' ') || null });
    },
    async clearAway(trial) {
      await removeAhead(aheadFolder(trial.id));
      const volume = await retryWhileAway(() => getVolume(trial.subject.target.volumeId));
      if (!volume) return;
      await removeScratch(volume.path, trial.id);
      await sweep?.(trial, volume.path);
    },
  };
}

/** Makes what a stand-in encoder is to give out, before anything is measured. Null: nothing is in the way of that. */
export async function encodeAhead(
  run: Pick<TrialRun, 'perform'>,
  spec: TaskSpec,
  onProgress: (progress: TaskProgress) => void = () => undefined,
): Promise<TrialEnd | null> {
  if (!spec.ahead) return null;
  const end = await run.perform('task', spec, {
    onMessage: (message) => {
      if (message.type === 'progress') onProgress(message.progress);
    },
  });
  return end.kind === 'done' ? null : end;
}

/** A task as it is measured, after what it needs was made. */
export const measuredSpec = ({ ahead, ...spec }: TaskSpec): TaskSpec =>
  ahead ? { ...spec, ahead: { ...ahead, isMade: true } } : spec;

async function measure<Kind extends TaskKind>(
  run: TrialRun<Kind>,
  { subject }: TrialRow<Kind>,
  spec: TaskSpec,
): Promise<Measured<Kind> & { readonly record: TaskRecord }> {
  let record = noTaskRecord;
  const { pictures } = run.parts;
  const onMessage = (message: Exclude<FromTask, { type: 'finished' | 'failed' }>) => {
    switch (message.type) {
      case 'progress':
        run.reach(message.progress);
        run.tell(message.progress);
        break;
      case 'record': {
        record = { ...record, ...message.record };
        run.keep(record);
        const { faults } = message.record;
        if (faults) run.save(() => noteRunFaults({ subject, clipId: null }, faults));
        break;
      }
      case 'picture':
        pictures.send(run.trialId, message.frame, message.jpeg);
    }
  };
  const ended = run.perform('task', spec, { onMessage });
  run.setViewers(pictures.viewerCount(run.trialId));
  const end = await ended.finally(() => pictures.end(run.trialId));
  return { end, record, ...(end.kind === 'done' ? { peakMemoryBytes: end.last.peakMemoryBytes } : {}) };
}

/** All that a task's process needs. @throws EngineError saying why it cannot begin */
export async function taskSpecOf(
  { id, subject }: Pick<TrialRow<TaskKind>, 'id' | 'subject'>,
  { suffix, ...work }: TaskWork,
): Promise<TaskSpec> {
  const source = await playedSpec(subject);
  if (!source || Object.keys(source.media).length < Object.keys(subject.timeline.media).length)
    throw new EngineError('task-parts-gone');
  const { target, timeline } = subject;
  const volume = await retryWhileAway(() => getVolume(target.volumeId));
  if (!volume) throw new EngineError('target-gone');
  const { path, facts } = await inspectVolume(volume.path, allowedRoots());
  if (!facts.writable) throw new EngineError('target-read-only', { path });
  const { device } = work;
  return {
    trialId: id,
    source: { ...source, course: timeline.course },
    ...work,
    ...(device && isStandInEncoder(device) ? { ahead: { folder: aheadFolder(id), isMade: false } } : {}),
    target: { path, standIn: target.standIn },
    name: outputName(timeline.name, suffix),
    startTimecode: slotTimecode(subject)(0),
  };
}

/** A file's name without its ending: what was worked on, and what was made of it. */
function outputName(name: string, suffix: string): string {
  const base = fileName(name)
    .replace(/\.[^.]+$/, '')
    .replace(/[^\p{L}\p{N}_-]+/gu, '_')
    .slice(0, 120);
  return `${base || 'task'}_${suffix}`;
}
