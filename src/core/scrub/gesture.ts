import { faultAt, type Fault } from '../fault';
import { seededRandom } from '../stats/random';
import { toNumber, type Rational } from '../time/rational';

export const builtInGestures = [
  'slow-drag',
  'fast-drag',
  'jump-play',
  'step-forward',
  'step-backward',
  'shuttle',
  'jumps',
] as const;
export type BuiltInGesture = (typeof builtInGestures)[number];

/** A movement of the playhead: at each time (ms from its start, ascending) a slot is asked for. */
export interface Gesture {
  readonly kind: BuiltInGesture | 'recorded';
  /** Length of what it was made for; on something else its targets keep their share of the length. */
  readonly slots: number;
  readonly timesMs: readonly number[];
  readonly targets: readonly number[];
}

/** A hand's display gives about so many positions a second. */
const handHz = 60;

/** Keeps one request per new position: a hand that stands still asks for nothing. */
function fromPath(
  kind: BuiltInGesture,
  slots: number,
  seconds: number,
  position: (second: number) => number,
  hz = handHz,
): Gesture {
  const timesMs: number[] = [];
  const targets: number[] = [];
  for (let at = 0; at <= seconds * hz; at++) {
    const target = Math.min(slots - 1, Math.max(0, Math.round(position(at / hz))));
    if (targets.at(-1) === target) continue;
    timesMs.push((at * 1000) / hz);
    targets.push(target);
  }
  return { kind, slots, timesMs, targets };
}

/**
 * A built-in gesture for something of `slots` slots.
 * @param speed of `shuttle`: times real time, negative backwards
 */
export function builtInGesture(
  kind: BuiltInGesture,
  slots: number,
  rate: Rational,
  seed: number,
  speed = 4,
): Gesture {
  const random = seededRandom(seed);
  const perSecond = toNumber(rate);
  const last = slots - 1;
  switch (kind) {
    case 'slow-drag': {
      // A hand that looks for a cut: half real time with a slight tremble, for six seconds.
      const start = random() * Math.max(0, last - 3 * perSecond);
      return fromPath(
        kind,
        slots,
        6,
        (second) => start + second * perSecond * 0.5 + Math.sin(second * 9) * 1.2,
      );
    }
    case 'fast-drag': {
      const middle = last / 2;
      const reach = (last / 2) * (0.7 + 0.3 * random());
      return fromPath(kind, slots, 6, (second) => middle + reach * Math.sin((second * 2 * Math.PI) / 2));
    }
    case 'jump-play': {
      // A jump, then a second at real time, four times.
      const starts = Array.from({ length: 4 }, () => random() * Math.max(0, last - perSecond));
      return fromPath(kind, slots, 6, (second) => {
        const part = Math.min(3, Math.floor(second / 1.5));
        return (starts[part] as number) + Math.min(1, second - part * 1.5) * perSecond;
      });
    }
    case 'step-forward':
    case 'step-backward': {
      // A key held down repeats about twelve times a second.
      const count = Math.min(last, 60);
      const direction = kind === 'step-forward' ? 1 : -1;
      const start =
        direction > 0
          ? Math.floor(random() * Math.max(1, last - count))
          : last - Math.floor(random() * Math.max(1, last - count));
      return {
        kind,
        slots,
        timesMs: Array.from({ length: count }, (_, at) => (at * 1000) / 12),
        targets: Array.from({ length: count }, (_, at) => start + direction * at),
      };
    }
    case 'shuttle': {
      const seconds = Math.min(6, last / (perSecond * Math.abs(speed)));
      return fromPath(kind, slots, seconds, (second) => (speed > 0 ? 0 : last) + second * perSecond * speed);
    }
    case 'jumps': {
      // N random places, one every half second: the start latency at each.
      const count = 24;
      return {
        kind,
        slots,
        timesMs: Array.from({ length: count }, (_, at) => at * 500),
        targets: Array.from({ length: count }, () => Math.floor(random() * slots)),
      };
    }
  }
}

/** A gesture for something of another length: targets keep their share of the length. */
export function fitted(gesture: Gesture, slots: number): Gesture {
  if (gesture.slots === slots || gesture.slots < 2) return gesture;
  const scale = (slots - 1) / (gesture.slots - 1);
  return {
    ...gesture,
    slots,
    targets: gesture.targets.map((target) => Math.min(slots - 1, Math.max(0, Math.round(target * scale)))),
  };
}

/** What is wrong with a gesture that comes from outside, or null. */
export function gestureProblem({ slots, timesMs, targets }: Gesture): Fault | null {
  if (timesMs.length < 2 || timesMs.length !== targets.length) return faultAt(null, 'gesture-too-short');
  if (timesMs.length > 20_000) return faultAt(null, 'gesture-too-long');
  if (timesMs.some((time, at) => !Number.isFinite(time) || time < (timesMs[at - 1] ?? 0)))
    return faultAt(null, 'gesture-times');
  if (targets.some((target) => !Number.isInteger(target) || target < 0 || target >= slots))
    return faultAt(null, 'gesture-outside', { slots });
  return null;
}
