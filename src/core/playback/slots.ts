/** The stages a slot goes through, in order. `present` is the hand-over at the due time. */
export const stages = ['read', 'decode', 'process', 'present'] as const;
export type Stage = (typeof stages)[number];

/** What a drop is charged to: a stage that was late, or the media, of which the decoder makes no picture. */
export const causes = [...stages, 'media'] as const;
export type Cause = (typeof causes)[number];

/** The stages that work on a frame; `present` is what stays when all three are free. */
export type WorkingStage = Exclude<Stage, 'present'>;

/** What became of a slot. */
export const slotStates = ['pending', 'shown', 'late', 'dropped', 'wrong'] as const;
export const slotState = { pending: 0, shown: 1, late: 2, dropped: 3, wrong: 4 } as const;

/** Where a frame was given up: 0 nowhere, else before or in that stage; `present` means finished too late, `media` that it cannot be decoded. */
export const skippedAt = { none: 0, read: 1, decode: 2, process: 3, present: 4, media: 5 } as const;

/** Start of a slot in µs after t0. */
export function dueUs(slot: number, slotUs: number): number {
  return slot * slotUs;
}

/** End of a slot in µs after t0: a frame presented at or after it has missed. */
export function deadlineUs(slot: number, slotUs: number): number {
  return (slot + 1) * slotUs;
}

/** How playback treats frames that cannot make their slot. */
export type Policy = 'hold-time' | 'every-frame';

/** Depths of the bounded buffers between stages, in slots. */
export interface BufferDepths {
  /** Packets read and not yet taken by the decoder. */
  readonly readAhead: number;
  /** Frames decoded and not yet taken for processing. */
  readonly decoded: number;
  /** Frames processed and not yet presented. */
  readonly ready: number;
}

export const defaultBufferDepths: BufferDepths = { readAhead: 24, decoded: 6, ready: 4 };

/** Raster that processing works at, by its share of the timeline's width. */
export const playbackScales = ['full', 'half', 'quarter'] as const;
export type PlaybackScale = (typeof playbackScales)[number];
