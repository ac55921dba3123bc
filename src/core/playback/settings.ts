import type { Decoding } from '../decode/decoding';
import type { ReadBy } from '../media/coldProof';
import type { InjectedFault } from './injectedFault';
import type { BufferDepths, PlaybackScale, Policy } from './slots';

/** What a session does beside a playback. */
export const meanwhiles = ['nothing', 'previews'] as const;
export type Meanwhile = (typeof meanwhiles)[number];
export const meanwhileWords: Readonly<Record<Meanwhile, string>> = {
  nothing: 'nothing else is done',
  previews: 'thumbnails and sound peaks are drawn',
};

/**
 * In how many bits a channel pictures are worked on: as many as the source has (16 where it has more than 8), or in 8 whatever it has.
 */
export const workingDepths = ['kept', '8-bit'] as const;
export type WorkingDepth = (typeof workingDepths)[number];

/**
 * What becomes of interlaced pictures: both fields stay in one picture, each brought to its raster by itself; or a slot
 * shows the field that its time lies in, with the lines between worked out.
 */
export const fieldsWays = ['woven', 'deinterlaced'] as const;
export type FieldsWay = (typeof fieldsWays)[number];

/** Whether a clip's sound is read, decoded and mixed beside its pictures. */
export const soundChoices = ['on', 'off'] as const;
export type SoundChoice = (typeof soundChoices)[number];

/** How pictures are worked on. */
export interface WorkedIn {
  /** Absent in trials from before it could be chosen: 8 bits. */
  readonly depth?: WorkingDepth;
  /** Absent in trials from before it could be chosen: woven, and brought to smaller rasters as one picture. */
  readonly fields?: FieldsWay;
}

export interface PlaybackSettings extends ReadBy, WorkedIn {
  readonly scale: PlaybackScale;
  readonly policy: Policy;
  /** Decoder threads; 0 lets the decoder take one per core. */
  readonly threads: number;
  /** Scale and convert decoded frames. Off measures reading and decoding alone. */
  readonly processing: boolean;
  readonly buffers: BufferDepths;
  /** Play only the first so many slots; null plays all. */
  readonly slotLimit: number | null;
  readonly faults: readonly InjectedFault[];
  /** What is done beside it, of the same clips; absent in trials from before it could be chosen: nothing. */
  readonly meanwhile?: Meanwhile;
  /** Absent in trials from before it was played: off. */
  readonly sound?: SoundChoice;
  /** What decodes it; absent in trials from before it could be chosen, and where it is software alone. */
  readonly decoding?: Decoding;
}
