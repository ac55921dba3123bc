import { count, quantity } from '../../format';
import type { ColdProof } from '../../media/coldProof';
import type { RunFaults } from '../../media/faults';
import type { WorkedIn } from '../../playback/settings';
import { timesLength } from '../../tasks/taskSummary';
import type { TimelineSubject } from '../../timeline/subject';
import type { StorageModel } from '../../storage/model';
import { stageNouns, type HeldBack } from '../../tasks/heldBack';
import type { AnalysisFound } from '../../tasks/analysis';
import type { OutputProof } from '../../tasks/outputProof';
import type { TaskStage } from '../../tasks/pipeline';
import { noWindows, type TaskFacts, type TaskWindows } from '../../tasks/windows';
import { plainName } from '../../simulated';
import type { KindFacts, Names } from '../kind';
import type { RigConditions } from './conditions';
import { rate, time } from './metrics';
import { playedNames, playedUnder } from './played';

/** Where a task writes. */
export interface TaskTarget {
  readonly volumeId: string;
  readonly volumeName: string;
  readonly standIn: StorageModel | null;
}

/** What a task worked on, and where it wrote. */
export type TaskSubject = TimelineSubject & { readonly target: TaskTarget };

/** How far a task is. */
export interface TaskProgress {
  /** `preparing`: what a stand-in encoder is to give out is made, before anything is measured. */
  readonly phase: 'preparing' | 'opening' | 'working' | 'finishing' | 'proving';
  /** Frames done in this phase. */
  readonly frames: number;
  readonly total: number;
  readonly framesPerSecond: number;
  readonly msLeft: number | null;
  /** By how much more or less that may well be; null while it is not known. */
  readonly spreadMs: number | null;
  /** The stage that had most to do in the last window. */
  readonly busiest: TaskStage | null;
}

/** What was made, and what it took. */
export interface TaskMade {
  readonly frames: number;
  /** From the start to the last byte on the volume, without the proof. */
  readonly elapsedUs: number;
  /** Of that: until the first frame began its way. */
  readonly openingUs: number;
  /** Until the first frame came out of the encoder. */
  readonly startUpUs: number;
  readonly provingUs: number;
  readonly coreUs: number;
  readonly outputBytes: number;
  /** As the file was written: pixel format, encoder, size, sound. */
  readonly pixelFormat: string;
  readonly encoder: string;
  readonly width: number;
  readonly height: number;
  /** Clips whose sound went in. */
  readonly soundSources: number;
  /** Path below the target volume, where it was kept. */
  readonly keptAs: string | null;
}

/** How like its source an output is. Source: the codec library's filters ssim and psnr. */
export interface Likeness {
  /** 0 to 1; 1 is the same. */
  readonly ssim: number;
  /** dB; null where both are the same. */
  readonly psnr: number | null;
  readonly frames: number;
}

/** What was measured of a task. */
export interface TaskRecord {
  readonly cold: ColdProof | null;
  readonly facts: TaskFacts | null;
  readonly windows: TaskWindows;
  readonly made: TaskMade | null;
  readonly proof: OutputProof | null;
  readonly likeness: Likeness | null;
  /** Of an analysis: what it found beside its pictures. */
  readonly found?: AnalysisFound;
  readonly faults?: RunFaults;
}

/** Of a task that has told nothing yet. */
export const noTaskRecord: TaskRecord = {
  cold: null,
  facts: null,
  windows: noWindows,
  made: null,
  proof: null,
  likeness: null,
};

/** What a task came to. Of one that ended early: up to there. */
export interface TaskSummary {
  readonly frames: number;
  readonly total: number;
  /** Length of what was made, s of media. */
  readonly mediaSeconds: number;
  readonly elapsedMs: number;
  readonly openingMs: number | null;
  readonly startUpMs: number | null;
  readonly provingMs: number | null;
  /** Of windows behind the start-up, frames a second. */
  readonly framesPerSecond: { readonly p5: number; readonly p50: number; readonly p95: number } | null;
  /** Mean of its processor time over its time. */
  readonly cores: number;
  readonly bytesRead: number;
  readonly bytesWritten: number;
  readonly outputBytes: number | null;
  readonly held: HeldBack | null;
  /** Null where it was not decoded whole. */
  readonly proved: boolean | null;
  readonly ssim: number | null;
  readonly keptAs: string | null;
  /** Of an analysis: what it found beside its pictures. */
  readonly found?: AnalysisFound;
}

/** What trials keep that make something of a timeline or a clip. */
export interface TaskShape {
  readonly subject: TaskSubject;
  readonly conditions: RigConditions;
  readonly progress: TaskProgress;
  readonly record: TaskRecord;
  readonly summary: TaskSummary;
}

/** Where a task stopped, for what is said of a bad end. */
export function stoppedAt({ phase, frames, total, busiest }: TaskProgress): string {
  const doing = {
    preparing: 'while the simulated encoder was prepared',
    opening: 'while opening its media',
    working: `while ${busiest === null ? 'working' : stageNouns[busiest].doing.toLowerCase()}`,
    finishing: 'while closing the file',
    proving: 'while the output was proved',
  }[phase];
  const share =
    total > 0 ? `at ${quantity(Math.floor((frames / total) * 100), '%')}, frame ${count(frames)}, ` : '';
  return `Stopped ${phase === 'opening' ? '' : share}${doing}.`;
}

const taskMetrics = [
  time('taskTime', 'Time, per second of media', 's'),
  rate('taskRate', 'Steady rate', 'frames/s'),
  time('taskStart', 'Start-up', 'ms'),
  time('taskBytes', 'Size, per second of media', 'MB'),
  rate('taskSsim', 'Likeness to the source (SSIM)', ''),
];

/** Figures of a task: only of outputs that are proved, since a fast bad one is no result. */
const taskValues = (summary: TaskSummary) => {
  if (summary.proved === false) return {};
  const { mediaSeconds, outputBytes } = summary;
  return {
    taskTime: timesLength(summary),
    taskRate: summary.framesPerSecond?.p50,
    taskStart: summary.startUpMs,
    taskBytes: outputBytes !== null && mediaSeconds > 0 ? outputBytes / 1e6 / mediaSeconds : null,
    taskSsim: summary.ssim,
  };
};

/** A task's names: what was worked on, and all volumes that were read from or written to. @param how in a few words */
export function taskNames(subject: TaskSubject, how: string): Names {
  const told = subject.timeline.course.prerendered ? `${how}, from pre-rendered` : how;
  const { volumes, ...names } = playedNames(subject, told);
  return { ...names, volumes: [...new Set([...volumes, subject.target.volumeName])] };
}

/** What is waited for: exports, pre-renders, analyses, opening. */
export const taskPage = '/trials/tasks';

/** What is alike of all kinds of task. */
export const taskFacts = {
  page: taskPage,
  under: ({ subject, settings }) => ({
    ...playedUnder(subject, settings),
    Target: plainName(subject.target.volumeName, subject.target.standIn !== null),
  }),
  overheadMs: 4_000,
  metrics: taskMetrics,
  values: ({ summary }) => taskValues(summary),
} satisfies Partial<KindFacts<TaskShape & { readonly settings: WorkedIn }>>;
