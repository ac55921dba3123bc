import { duration } from '@/core/format';
import { answerOf } from '@/core/kinds/kinds';
import type { SoakProgress } from '@/core/kinds/soak';
import { noTaskRecord, type TaskRecord, type TaskSubject } from '@/core/kinds/shared/task';
import { decodeTrace } from '@/core/playback/trace';
import {
  noPasses,
  PlayedPoints,
  pointsOfTask,
  SoakPeaks,
  SoakPoints,
  summariseSoak,
  type SoakPasses,
  type SoakPoint,
} from '@/core/tasks/soak';
import { toNumber } from '@/core/time/rational';
import type { TrialRow } from '@/db/kinds';
import { getVolume } from '@/db/queries/volumes';
import { EngineError } from '@/engine/errors';
import { aheadFolder, removeAhead } from '@/engine/task/aheadFile';
import { removeScratch } from '@/engine/task/scratch';
import type { TrialSpec } from '@/engine/playback/spec';
import type { TaskSpec } from '@/engine/task/spec';
import { plainFinding } from '../../trials/findings';
import { playedSpec } from '../../timelines/timelineMedia';
import { retryWhileAway } from '../shared/retryWhileAway';
import type { KindRunner, Measured, TrialEnd, TrialRun } from '../trialRun';
import { workOfAnalysis } from './analysis';
import { workOfExport } from './export';
import { encodeAhead, measuredSpec, taskSpecOf } from './shared/task';

type Soaked = TrialRow<'soak'>;

/** What is measured so far is saved at most so often, ms: a soak of hours has many points. */
const saveEveryMs = 10_000;
/** The last pass of a playback is no shorter, s. */
const leastPassSeconds = 1;

type PassSpec =
  | { readonly name: 'trial'; readonly spec: TrialSpec & { readonly subject: { readonly kind: 'timeline' } } }
  | { readonly name: 'task'; readonly spec: TaskSpec };

export const soak: KindRunner<'soak'> = {
  async prepare(trial) {
    const pass = await passOf(trial);
    return {
      volumeIds: trial.volumeIds,
      ...(pass.name === 'task' ? { before: (run) => encodeAhead(run, pass.spec) } : {}),
      measure: (run) => new SoakRun(run, trial, pass).measure(),
    };
  },
  judge(trial, { status, outcome }) {
    const summary = trial.record && summariseSoak(trial.record, neededBy(trial));
    const answer = summary && answerOf(plainFinding({ ...trial, summary }));
    return Promise.resolve({ summary, outcome: status === 'done' ? answer : outcome });
  },
  async clearAway({ id, subject }) {
    await removeAhead(aheadFolder(id));
    const volume =
      'target' in subject ? await retryWhileAway(() => getVolume(subject.target.volumeId)) : null;
    if (volume) await removeScratch(volume.path, id);
  },
};

/** Slots a second that are played; null of a task. */
const neededBy = ({ settings: { work }, subject }: Soaked) =>
  work.kind === 'playback' ? toNumber(subject.timeline.rate) : null;

async function passOf({ id, subject, settings: { work } }: Soaked): Promise<PassSpec> {
  if (work.kind !== 'playback') {
    const how = work.kind === 'export' ? workOfExport(work.settings) : workOfAnalysis(work.settings);
    return { name: 'task', spec: await taskSpecOf({ id, subject: subject as TaskSubject }, how) };
  }
  const spec = await playedSpec(subject);
  if (!spec) throw new EngineError('soak-timeline-gone');
  const played = { kind: 'timeline' as const, ...spec, course: subject.timeline.course };
  return { name: 'trial', spec: { trialId: id, subject: played, settings: work.settings, bare: true } };
}

/** How a pass ended, and what it was. */
interface Pass {
  readonly end: TrialEnd;
  readonly frames: number;
  readonly dropped: number;
  readonly isProved: boolean;
  readonly peakBytes: number | null;
  /** From its first frame to its last, s. */
  readonly workedS: number;
}

/** Does the same again and again until its time is over, a process for each pass. */
class SoakRun {
  private readonly points = new SoakPoints();
  private readonly peaks = new SoakPeaks();
  private passes: SoakPasses = noPasses;
  private readonly beganMs = Date.now();
  private savedMs = 0;
  /** Slots dropped in the pass that is under way. */
  private droppedNow = 0;
  /** Greatest of all passes. */
  private peakBytes: number | null = null;

  constructor(
    private readonly run: TrialRun<'soak'>,
    private readonly trial: Soaked,
    private readonly pass: PassSpec,
  ) {}

  private get seconds(): number {
    return (Date.now() - this.beganMs) / 1000;
  }

  private get total(): number {
    return this.trial.settings.minutes * 60;
  }

  async measure(): Promise<Measured<'soak'>> {
    let end: TrialEnd = { kind: 'done' };
    while (end.kind === 'done' && this.seconds < this.total && !this.run.wish) {
      const pass =
        this.pass.name === 'trial'
          ? await this.play(this.pass.spec)
          : await this.work(measuredSpec(this.pass.spec));
      end = pass.end;
      this.count(pass);
      if (end.kind === 'done') this.tell();
    }
    this.save(true);
    const peak = this.peakBytes === null ? {} : { peakMemoryBytes: this.peakBytes };
    return { end: this.run.wish === 'cancel' ? { kind: 'cancelled' } : this.placed(end), ...peak };
  }

  /** A bad end with the pass in which it came. */
  private placed(end: TrialEnd): TrialEnd {
    if (!('message' in end)) return end;
    const place = `In pass ${this.passes.done + 1}, ${duration(this.seconds * 1000)} after the soak began.`;
    return { ...end, message: `${end.message} ${place}` };
  }

  private count({ end, frames, dropped, isProved, peakBytes, workedS }: Pass): void {
    const { done } = this.passes;
    const isWhole = end.kind === 'done';
    this.peakBytes = Math.max(this.peakBytes ?? 0, peakBytes ?? 0) || null;
    this.peaks.add(peakBytes);
    this.droppedNow = 0;
    this.passes = {
      done: done + (isWhole ? 1 : 0),
      frames: this.passes.frames + frames,
      dropped: this.passes.dropped + dropped,
      unproved: this.passes.unproved + (isWhole && !isProved ? 1 : 0),
      workedS: this.passes.workedS + workedS,
      peakBytes: [...this.peaks.all],
    };
  }

  private async play(spec: Extract<PassSpec, { name: 'trial' }>['spec']): Promise<Pass> {
    const { rate } = this.trial.subject.timeline;
    const perSecond = toNumber(rate);
    const { course } = spec.subject;
    const left = Math.ceil(Math.max(leastPassSeconds, this.total - this.seconds) * perSecond);
    const slots = Math.min(course.slots, left);
    let [frames, dropped] = [0, 0];
    let points: PlayedPoints | null = null;
    const { pictures } = this.run.parts;
    const ended = this.run.perform(
      'trial',
      { ...spec, subject: { ...spec.subject, course: { ...course, slots } } },
      {
        onMessage: (message) => {
          switch (message.type) {
            case 'prepared':
              points = new PlayedPoints(this.seconds, perSecond, (point) => this.point(point));
              break;
            case 'batch': {
              const trace = decodeTrace(message.data);
              frames += trace.length;
              points?.add(trace);
              break;
            }
            case 'counters':
              dropped = message.counters.dropped;
              this.droppedNow = dropped;
              break;
            case 'picture':
              pictures.send(this.run.trialId, message.frame, message.jpeg);
          }
        },
      },
    );
    this.run.setViewers(pictures.viewerCount(this.run.trialId));
    const end = await ended.finally(() => pictures.end(this.run.trialId));
    (points as PlayedPoints | null)?.end();
    return { end, frames, dropped, isProved: true, peakBytes: peakOf(end), workedS: frames / perSecond };
  }

  private async work(spec: TaskSpec): Promise<Pass> {
    const fromS = this.seconds;
    let record: TaskRecord = noTaskRecord;
    const { pictures } = this.run.parts;
    const ended = this.run.perform('task', spec, {
      onMessage: (message) => {
        if (message.type === 'record') record = { ...record, ...message.record };
        if (message.type === 'picture') pictures.send(this.run.trialId, message.frame, message.jpeg);
        if (message.type === 'progress') this.tell(message.progress.framesPerSecond || null);
      },
    });
    this.run.setViewers(pictures.viewerCount(this.run.trialId));
    const end = await ended.finally(() => pictures.end(this.run.trialId));
    for (const point of pointsOfTask(record.windows, fromS)) this.point(point);
    const frames = record.made?.frames ?? record.windows.stages.write.frames.at(-1) ?? 0;
    const isProved = record.proof !== null && record.proof.problems.length === 0;
    return {
      end,
      frames,
      dropped: 0,
      isProved,
      peakBytes: peakOf(end),
      workedS: Math.max(0, (record.made?.elapsedUs ?? 0) - (record.made?.startUpUs ?? 0)) / 1e6,
    };
  }

  private point(point: SoakPoint): void {
    this.points.add(point);
    this.tell(point.framesPerSecond);
    this.save();
  }

  private tell(framesPerSecond = this.points.all.at(-1)?.framesPerSecond ?? null): void {
    const { done } = this.passes;
    const dropped = this.passes.dropped + this.droppedNow;
    const { seconds, total } = this;
    const msLeft = Math.max(0, total - seconds) * 1000;
    const progress: SoakProgress = { seconds, total, passes: done, dropped, framesPerSecond, msLeft };
    this.run.reach(progress);
    this.run.tell(progress);
  }

  private save(isLast = false): void {
    if (!isLast && Date.now() - this.savedMs < saveEveryMs) return;
    this.savedMs = Date.now();
    this.run.keep({ points: [...this.points.all], passes: this.passes, seconds: this.seconds });
  }
}

function peakOf(end: {
  readonly kind: string;
  readonly last?: { readonly peakMemoryBytes: number };
}): number | null {
  return end.last?.peakMemoryBytes ?? null;
}
