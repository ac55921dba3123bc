import type { SoundPart } from '@/core/tasks/soundPlan';
import type { Rational } from '@/core/time/rational';
import type { CodecSetup, SoundSource } from '../media/streamFacts';
import type { ThreadPacing } from '../storage/sharedPacer';

/** A clip whose sound a run plays. */
export interface SoundClip {
  readonly path: string;
  /** Files of a take, where it lies in several. */
  readonly setup: CodecSetup;
  readonly sound: SoundSource;
  /** Of a simulated volume; null of a real one. */
  readonly pacing: ThreadPacing | null;
}

/** What the thread that works out a run's sound is started with. */
export interface SoundJob {
  readonly parts: readonly SoundPart[];
  readonly clips: ReadonlyMap<string, SoundClip>;
  readonly rate: Rational;
  readonly slotCount: number;
  /** Past the system's cache, where the file system allows it. */
  readonly direct: boolean;
  /** Slots that are worked out before they are due. */
  readonly ahead: number;
  /** Slots follow the clock, and have a time at which their sound is due. */
  readonly holdTime: boolean;
}

export interface SoundShared {
  readonly slotCount: number;
  readonly buffer: SharedArrayBuffer;
}

const wordBytes = 16;

export function createSoundShared(slotCount: number): SoundShared {
  const shared = { slotCount, buffer: new SharedArrayBuffer(wordBytes + 8 + slotCount * 5 * 4) };
  const views = soundViews(shared);
  for (const column of [views.readUs, views.decodeUs, views.mixUs]) column.fill(-1);
  return shared;
}

/**
 * `stop[0]`: 1 when it is to end. `passed[0]`: slots that were shown, or whose time is over. `timing[0]`: t0 on the monotonic clock, µs;
 * 0 before. Of each slot: `state`, a value of `soundState` (silent: it is not known yet), and what its sound took (µs, bytes; -1 where it was never worked out).
 */
export function soundViews({ buffer, slotCount }: SoundShared) {
  const column = (index: number) => new Int32Array(buffer, wordBytes + 8 + index * slotCount * 4, slotCount);
  return {
    stop: new Int32Array(buffer, 0, 1),
    passed: new Int32Array(buffer, 4, 1),
    done: new Int32Array(buffer, 8, 1),
    timing: new Float64Array(buffer, wordBytes, 1),
    state: column(0),
    readUs: column(1),
    decodeUs: column(2),
    mixUs: column(3),
    bytes: column(4),
  };
}

export type SoundViews = ReturnType<typeof soundViews>;

/** The run that a thread is for; null: there is none, and it ends. */
export interface ToSound {
  readonly job: SoundJob;
  readonly shared: SoundShared;
}

export type FromSound =
  | { readonly type: 'up' }
  /** It cannot go on: slots that are left are given up. */
  | { readonly type: 'failed'; readonly message: string };
