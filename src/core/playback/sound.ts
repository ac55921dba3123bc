import { mean } from '../stats/quantiles';
import type { SoundChoice } from './settings';
import type { Played } from '../timeline/subject';
import type { Trace } from './trace';

/** Sound of what was played, each kind once, in words: "stereo AAC, 48 kHz". Empty where it has none that could be played. */
export function soundOf(subject: Played): string[] {
  const { timeline } = subject;
  if (!timeline) return subject.sound ? [subject.sound] : [];
  if (timeline.course.speed !== 1) return [];
  return [...new Set(Object.values(timeline.media).flatMap(({ sound }) => sound ?? []))];
}

/** The sound that was played, as a condition. Off and without any is the same work. */
export function soundWords(choice: SoundChoice | undefined, subject: Played): string {
  const sound = choice === 'on' ? soundOf(subject) : [];
  return sound.length > 0 ? sound.join('; ') : 'none played';
}

/** What became of a slot's sound. `silent`: none was played; `broken`: the decoder refused some of it. */
export const soundState = { silent: 0, ready: 1, underRun: 2, broken: 3 } as const;

/** Names of its values, by value. */
export const soundStates = ['silent', 'ready', 'under-run', 'broken'] as const;

/** Whether any of a run's slots had its sound worked out. @param sound values of `soundState` */
export const hasSound = (sound: Uint8Array | undefined): boolean =>
  sound?.some((state) => state !== soundState.silent) ?? false;

/** What was found of a run's sound. Times are ms of a slot, means over all slots whose sound was worked out. */
export interface SoundSummary {
  /** Slots that were due before their sound was ready. */
  readonly underRuns: number;
  readonly firstUnderRun: number | null;
  /** Slots of whose sound the decoder refused some. */
  readonly broken: number;
  readonly slots: number;
  readonly readMs: number;
  readonly decodeMs: number;
  readonly mixMs: number;
  readonly bytesPerSecond: number;
}

/** @returns null where none was played. @param slotUs length of a slot */
export function soundSummary(
  { sound, soundReadUs, soundDecodeUs, soundMixUs, soundBytes }: Trace,
  slotUs: number,
): SoundSummary | null {
  const states = [...sound];
  const slots = states.filter((state) => state !== soundState.silent).length;
  if (slots === 0) return null;
  const worked = states.flatMap((_, slot) => ((soundReadUs[slot] as number) >= 0 ? [slot] : []));
  const meanMs = (column: Int32Array) =>
    worked.length > 0 ? mean(Float64Array.from(worked, (slot) => column[slot] as number)) / 1000 : 0;
  const first = sound.indexOf(soundState.underRun);
  const bytes = worked.reduce((sum, slot) => sum + (soundBytes[slot] as number), 0);
  return {
    underRuns: states.filter((state) => state === soundState.underRun).length,
    firstUnderRun: first < 0 ? null : first,
    broken: states.filter((state) => state === soundState.broken).length,
    slots,
    readMs: meanMs(soundReadUs),
    decodeMs: meanMs(soundDecodeUs),
    mixMs: meanMs(soundMixUs),
    bytesPerSecond: (bytes * 1e6) / (slots * slotUs),
  };
}
