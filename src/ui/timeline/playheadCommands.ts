import { commandsUnder, type Command } from '../keys/commands';

/** First and last slot between which it plays; null where the timeline's own holds. */
export interface Marks {
  readonly in: number | null;
  readonly out: number | null;
}

const speeds = [1, 2, 4, 8] as const;

/** Speed after one more press: from the other direction or rest to 1, then doubling. */
export function nextSpeed(current: number, direction: 1 | -1): number {
  if (Math.sign(current) !== direction) return direction;
  return direction * (speeds.find((speed) => speed > Math.abs(current)) ?? 8);
}

/** What keys do with a playhead. */
interface PlayheadDeeds {
  readonly play: (speed: number) => void;
  readonly stop: () => void;
  readonly moveTo: (slot: number) => void;
  /** To the next cut, or the one before. */
  readonly cuts: (direction: 1 | -1) => void;
  /** Slots of a second. */
  readonly second: number;
  readonly setMarks: (change: (before: Marks) => Marks) => void;
  readonly setLoop: (change: (on: boolean) => boolean) => void;
}

const command = commandsUnder('Playback');

/** Keys of a playhead. @param now where it stands and how fast it goes, asked when a key is pressed */
export function playheadCommands(
  now: () => { readonly slot: number; readonly speed: number; readonly total: number },
  { play, stop, moveTo, cuts, second, setMarks, setLoop }: PlayheadDeeds,
): readonly Command[] {
  const by = (slots: number) => () => moveTo(now().slot + slots);
  const faster = (direction: 1 | -1) => () => play(nextSpeed(now().speed, direction));
  const markIn = () => {
    const { slot } = now();
    setMarks(({ out }) => ({ in: slot, out: out !== null && out < slot ? null : out }));
  };
  const markOut = () => {
    const { slot } = now();
    setMarks((before) => ({ in: before.in !== null && before.in > slot ? null : before.in, out: slot }));
  };
  return [
    command('toggle', 'Play or stop', ' ', () => (now().speed === 0 ? play(1) : stop())),
    command('backwards', 'Play backwards, faster with each press', 'j', faster(-1)),
    command('halt', 'Stop', 'k', stop),
    command('forwards', 'Play forwards, faster with each press', 'l', faster(1)),
    command('slot-on', 'One slot forward', 'ArrowRight', by(1)),
    command('slot-back', 'One slot back', 'ArrowLeft', by(-1)),
    command('second-on', 'One second forward', 'Shift+ArrowRight', by(second)),
    command('second-back', 'One second back', 'Shift+ArrowLeft', by(-second)),
    command('next-cut', 'Next cut', 'ArrowDown', () => cuts(1)),
    command('previous-cut', 'Previous cut', 'ArrowUp', () => cuts(-1)),
    command('first', 'First slot', 'Home', () => moveTo(0)),
    command('last', 'Last slot', 'End', () => moveTo(now().total - 1)),
    command('mark-in', 'Mark in', 'i', markIn),
    command('mark-out', 'Mark out', 'o', markOut),
    command('clear-marks', 'Clear in and out', 'Shift+I', () => setMarks(() => ({ in: null, out: null }))),
    command('loop', 'Loop on or off', 'Shift+L', () => setLoop((on) => !on)),
  ];
}
