import type { ClipFaults } from '@/core/media/faults';
import type { Format } from '@/core/media/format';
import type { Course } from '@/core/timeline/flatten';
import type { Timeline } from '@/core/timeline/model';
import type { StorageModel } from '@/core/storage/model';
import type { CodecSetup, SoundSource } from '../media/streamFacts';

/** A clip that a timeline uses, with where it lies. */
export interface TimelineMediaSpec {
  readonly path: string;
  readonly volumeId: string;
  readonly volumeName: string;
  /** The model of a simulated volume. Files of one volume share it. */
  readonly standIn: StorageModel | null;
  readonly setup: CodecSetup;
  readonly format: Format;
  readonly rate: { readonly num: number; readonly den: number };
  /** Packed packet table. */
  readonly packets: Uint8Array;
  /** Null where it has none that runs play. */
  readonly sound: SoundSource | null;
  /** Frames that are not whole, as earlier runs met them; absent: none is known. */
  readonly knownFaults?: ClipFaults | undefined;
}

/** All that a process needs to show a timeline; it never asks the database. */
export interface TimelineSpec {
  readonly timeline: Timeline;
  /** By media id; one that is missing is not there. */
  readonly media: Readonly<Record<string, TimelineMediaSpec>>;
  /** Texts of `.cube` files by look id. */
  readonly looks: Readonly<Record<string, string>>;
}

export interface CourseSpec extends TimelineSpec {
  readonly course: Course;
}
