import { fileName } from '../media/fileName';
import type { Format } from '../media/format';
import type { Scan } from '../media/identity';
import type { StorageModel } from '../storage/model';
import type { Rational } from '../time/rational';
import { clipTimecode } from '../time/clipTimecode';
import { courseSlot, type Course } from './flatten';
import type { SlotCount } from './model';

/** The clip that a trial played, as it was then. */
export interface PlayedClip {
  readonly timeline?: undefined;
  readonly clipPath: string;
  readonly volumeName: string;
  /** The model of a simulated volume; absent for a real one. */
  readonly standIn?: StorageModel | null;
  readonly format: Format;
  /** Absent in trials from before it was kept. */
  readonly scan?: Scan | null;
  /** Its sound in words, where it has some that can be played; absent in trials from before it was. */
  readonly sound?: string | null;
  readonly startTimecode: string | null;
}

/** A file that a run of a timeline really read. */
export interface MediaUse {
  /** Name of the media in the timeline. */
  readonly name: string;
  readonly clipId: string;
  readonly path: string;
  readonly volumeId: string;
  readonly volumeName: string;
  readonly standIn: StorageModel | null;
  readonly contentHash: string | null;
  readonly format: Format;
  /** Absent in trials from before it was kept. */
  readonly scan?: Scan | null;
  /** See `PlayedClip`. */
  readonly sound?: string | null;
  /** What it is of its footage. */
  readonly role: 'original' | 'rendition' | 'pre-render';
}

/** The timeline that a trial played. Its document is the version's, which never changes. */
export interface TimelineSubject {
  readonly timeline: {
    readonly id: string;
    readonly version: number;
    readonly name: string;
    readonly rate: Rational;
    readonly width: number;
    readonly height: number;
    readonly slots: SlotCount;
    readonly course: Course;
    /** Which form of the footage was asked for. */
    readonly read: 'originals' | 'proxies';
    readonly media: { readonly [mediaId: string]: MediaUse };
    /** Names of media that were not at hand and were left out. */
    readonly missing: readonly string[];
  };
  readonly startTimecode: string | null;
}

export type Played = PlayedClip | TimelineSubject;

/** Slots per second of a trial. */
export function rateOf(subject: Played): Rational {
  return subject.timeline ? subject.timeline.rate : subject.format.rate;
}

/** Timecode of a slot of the run, as the timeline or clip counts it. */
export function slotTimecode(subject: Played): (slot: number) => string {
  const timecodeAt = clipTimecode(subject.startTimecode, rateOf(subject));
  return subject.timeline ? (slot) => timecodeAt(courseSlot(subject.timeline.course, slot)) : timecodeAt;
}

/** What was played, by its name. */
export function nameOf(subject: Played): string {
  return subject.timeline ? subject.timeline.name : fileName(subject.clipPath);
}

/** Names of the volumes that were read, and whether any is simulated. */
export function volumesOf(subject: Played): {
  readonly names: readonly string[];
  readonly simulated: boolean;
} {
  if (!subject.timeline) return { names: [subject.volumeName], simulated: subject.standIn != null };
  const uses = Object.values(subject.timeline.media);
  return {
    names: [...new Set(uses.map(({ volumeName }) => volumeName))],
    simulated: uses.some(({ standIn }) => standIn !== null),
  };
}

/** Formats that were read, one of each. */
export function formatsOf(subject: Played): readonly Format[] {
  return subject.timeline
    ? Object.values(subject.timeline.media).map(({ format }) => format)
    : [subject.format];
}

/** How what was read is scanned. */
export function scansOf(subject: Played): readonly (Scan | null | undefined)[] {
  return subject.timeline ? Object.values(subject.timeline.media).map(({ scan }) => scan) : [subject.scan];
}
