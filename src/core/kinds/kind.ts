import type { Metric } from '../compare/compare';
import type { Rational } from '../time/rational';
import type { Told } from './shared/told';
import type { PlayedSummary } from './shared/played';

/** What a trial of a kind keeps. Each kind says it by an interface like this. */
export interface KindShape {
  readonly subject: object;
  readonly settings: object;
  readonly conditions: object;
  readonly progress: object;
  /** What was measured, where it is no trace and no list of requests; `never` where there is none. */
  readonly record: unknown;
  readonly summary: object;
}

/** A trial's names, as lists show them. */
export interface Names {
  /** Subject. */
  readonly subject: string;
  /** Volumes that it was read from or written to. */
  readonly volumes: readonly string[];
  /** How, in a few words; empty where the kind says it all. */
  readonly how: string;
}

/** A summary as lists and comparisons use it: without what only its own page shows, and what may be long. */
export type ShortSummary<Summary> = Summary extends PlayedSummary
  ? Omit<PlayedSummary, 'cures' | 'parts'>
  : Summary;

/** What besides its summary a finding stands on. */
export interface FindingContext {
  /** Frames or slots per second of what was played or decoded; null where there is none. */
  readonly rate: Rational | null;
  readonly startLatencyMs: number | null;
  /** Processor time of the trial's process over the run, as a share of all cores; null where it was not sampled. */
  readonly processorShare: number | null;
  /** Of a decode device; null for software. */
  readonly deviceName: string | null;
  /** Readers side by side of a frame-paced test; null for all else. */
  readonly framePacedStreams: number | null;
  /** Whether a copy was read back. */
  readonly verified: boolean;
}

/** What a trial found. */
export interface FindingOf<Shape extends KindShape> extends FindingContext {
  readonly summary: ShortSummary<Shape['summary']>;
}

/** What a trial is made of. */
export type MadeOf<Shape extends KindShape> = Pick<Shape, 'subject' | 'settings'>;
/** What it was made under as well. */
export type MadeUnder<Shape extends KindShape> = MadeOf<Shape> & {
  readonly conditions: Shape['conditions'] | null;
};
/** Conditions or figures by their names. */
export type Words = Readonly<Record<string, string>>;
export type Values = Readonly<Record<string, number | null | undefined>>;

/** All that is known of a kind of trial without a rig, a database or a page. */
export interface KindFacts<Shape extends KindShape> {
  /** As people read it. */
  readonly name: string;
  /** Path that its results are shown below. */
  readonly page: string;
  readonly names: (trial: MadeOf<Shape>) => Names;
  /** The test that it stands for in a comparison, where its name does not say it. */
  readonly test?: (settings: Shape['settings']) => string;
  /** Its settings as conditions: two trials that differ in one of them do not compare. */
  readonly told: Told<Shape['settings']>;
  /** What else it was made under, by name and in words. */
  readonly under: (trial: MadeUnder<Shape>) => Words;
  /** Its answer in a sentence or two. */
  readonly answer: (finding: FindingOf<Shape>) => string;
  /** Figures that its repeats are compared by, the one that decides first. */
  readonly metrics: readonly Metric[];
  /** What a run takes besides its media, ms: a process that starts, a cold file, a look at the rig, judging. From runs on small machines; the first runs of a plan correct it. */
  readonly overheadMs: number;
  /** Why it is not repeated as a series, and what to do instead; absent: it is. */
  readonly once?: string;
  /** Its figures, by the metric's id. */
  readonly values: (finding: FindingOf<Shape>) => Values;
}
