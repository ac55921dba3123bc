import { answerOf } from '@/core/kinds/kinds';
import { noTaskRecord, stoppedAt } from '@/core/kinds/shared/task';
import { fileName } from '@/core/media/fileName';
import type { ExportCodecId } from '@/core/tasks/exportCodecs';
import { summariseTask } from '@/core/tasks/taskSummary';
import { slotTimecode } from '@/core/playback/subject';
import type { TrialRow } from '@/db/kinds';
import { getVolume } from '@/db/queries/volumes';
import { EngineError } from '@/engine/errors';
import { removeScratch } from '@/engine/task/scratch';
import type { FromTask, TaskSpec } from '@/engine/task/spec';
import { inspectFolder } from '@/engine/volume';
import { noteRunFaults } from '../../clipFaults';
import { plainFinding } from '../../findings';
import { allowedRoots } from '../../roots';
import { playedSpec } from '../../timelineMedia';
import { persist } from '../persist';
import type { KindRunner, Measured, TrialRun } from '../trialRun';

type Exported = TrialRow<'export'>;

/** An export by a process of its own; what it measured is kept as it comes, so that a hang or crash still tells how far it was, and why it was slow. */
export const exporting: KindRunner<'export'> = {
  async prepare(trial) {
    const spec = await specOf(trial);
    return { volumeIds: trial.volumeIds, measure: (run) => measure(run, trial, spec) };
  },
  judge(trial, { status, outcome }) {
    const { timeline } = trial.subject;
    const summary =
      trial.record && summariseTask(trial.record, { total: timeline.course.slots, rate: timeline.rate });
    if (status === 'done') {
      const answer = summary && answerOf(plainFinding({ ...trial, summary }));
      return Promise.resolve({ summary, outcome: answer ?? outcome });
    }
    const place = trial.progress && stoppedAt(trial.progress);
    return Promise.resolve({ summary, outcome: [outcome, place].filter(Boolean).join(' ') || null });
  },
  async clearAway({ id, subject }) {
    const volume = await persist(() => getVolume(subject.target.volumeId));
    if (volume) await removeScratch(volume.path, id);
  },
};

async function measure(
  run: TrialRun<'export'>,
  { subject }: Exported,
  spec: TaskSpec,
): Promise<Measured<'export'>> {
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
  return { end, ...(end.kind === 'done' ? { peakMemoryBytes: end.last.peakMemoryBytes } : {}) };
}

async function specOf({ id, subject, settings }: Exported): Promise<TaskSpec> {
  const source = await playedSpec(subject);
  if (!source || Object.keys(source.media).length < Object.keys(subject.timeline.media).length)
    throw new EngineError('The timeline of this export, or one of its clips, is gone. Export another.');
  const { target, timeline } = subject;
  const volume = await persist(() => getVolume(target.volumeId));
  if (!volume)
    throw new EngineError(
      'The volume to export to is no longer in the list. Add it again, then export again.',
    );
  const { path, facts } = await inspectFolder(volume.path, allowedRoots());
  if (!facts.writable) throw new EngineError(`${path} is read-only. Choose another volume to export to.`);
  return {
    trialId: id,
    source: { ...source, course: timeline.course },
    settings,
    target: { path, standIn: target.standIn },
    name: outputName(timeline.name, settings.codec),
    startTimecode: slotTimecode(subject)(0),
  };
}

/** A file's name without its ending: what was exported, and as what. */
function outputName(name: string, codec: ExportCodecId): string {
  const base = fileName(name)
    .replace(/\.[^.]+$/, '')
    .replace(/[^\p{L}\p{N}_-]+/gu, '_')
    .slice(0, 120);
  return `${base || 'export'}_${codec}`;
}
