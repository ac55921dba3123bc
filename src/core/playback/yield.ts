import { toNumber, type Rational } from '../time/rational';

/**
 * Slots that a subject allows to be shown in time: over windows of one second of media, the lower of
 * the window's slots and the slots that a run which shows every frame did in a second there.
 * @param presentedAt when each slot was presented under "show every frame", µs
 */
export function allowedSlots(presentedAt: Float64Array, rate: Rational): number {
  const perSecond = toNumber(rate);
  const window = Math.max(1, Math.round(perSecond));
  let allowed = 0;
  for (let from = 0; from < presentedAt.length; from += window) {
    const to = Math.min(presentedAt.length, from + window);
    // Without a frame before it, a window's time is that between its own frames.
    const first = Math.max(0, from - 1);
    const seconds = ((presentedAt[to - 1] as number) - (presentedAt[first] as number)) / 1e6;
    const frames = to - 1 - first;
    const rateThere = seconds > 0 && frames > 0 ? frames / seconds : Infinity;
    allowed += Math.min(to - from, (rateThere / perSecond) * (to - from));
  }
  return allowed;
}
