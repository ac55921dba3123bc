import { soundState } from '@/core/playback/sound';
import type { Rational } from '@/core/time/rational';
import type { SlotSound } from './slotSound';
import type { SoundJob, SoundViews } from './soundShared';

/** What the thread waits with; the tests' own in tests. */
export interface SoundClock {
  now(): number;
  /** Waits until slots were passed, or the run is to end. @param passed as many as were passed so far */
  wait(passed: number): void;
}

const slotUsOf = ({ num, den }: Rational) => (1e6 * den) / num;

/**
 * Works out a run's sound, slot by slot, as far ahead of the slot that is shown as the run's pictures may be. Where slots follow the
 * clock, sound that is ready after its slot is due is late, and slots are given up that would be late if they took as long as the
 * quicker of the last two. Where slots follow the work nothing is due, and none is late.
 */
export function workOutSound(
  { slotCount, rate, ahead, holdTime }: Pick<SoundJob, 'slotCount' | 'rate' | 'ahead' | 'holdTime'>,
  sound: Pick<SlotSound, 'slot'>,
  views: SoundViews,
  clock: SoundClock,
): void {
  const slotUs = slotUsOf(rate);
  const dueUs = (slot: number) => {
    const startUs = views.timing[0] as number;
    return startUs > 0 ? startUs + slot * slotUs : Infinity;
  };
  const isStopped = () => Atomics.load(views.stop, 0) !== 0;
  const settle = (slot: number, state: number) => {
    Atomics.store(views.state, slot, state);
    Atomics.store(views.done, 0, slot + 1);
  };
  /** How long the last two took. */
  let [lastUs, beforeUs] = [0, 0];
  for (let slot = 0; slot < slotCount; slot++) {
    for (
      let passed = Atomics.load(views.passed, 0);
      slot >= passed + ahead && !isStopped();
      passed = Atomics.load(views.passed, 0)
    )
      clock.wait(passed);
    if (isStopped()) return;
    const begun = clock.now();
    if (holdTime && begun + Math.min(lastUs, beforeUs) > dueUs(slot)) {
      settle(slot, soundState.underRun);
      continue;
    }
    const { readUs, decodeUs, mixUs, bytes, isBroken } = sound.slot(slot);
    const ended = clock.now();
    views.readUs[slot] = Math.round(readUs);
    views.decodeUs[slot] = Math.round(decodeUs);
    views.mixUs[slot] = Math.round(mixUs);
    views.bytes[slot] = bytes;
    const isLate = holdTime && ended > dueUs(slot);
    [lastUs, beforeUs] = [ended - begun, lastUs];
    settle(slot, isLate ? soundState.underRun : isBroken ? soundState.broken : soundState.ready);
  }
}
