import { equals, ratioText, rational, toNumber, type Rational } from '../../time/rational';
import {
  countingFor,
  formatTimecode,
  isDropFrameText,
  parseTimecode,
  type TimecodeCounting,
} from '../../time/timecode';
import { sourceFrameAt } from '../../timeline/flatten';
import {
  fadeInSlots,
  type Item,
  type MediaRef,
  type Source,
  type Timeline,
  type Track,
} from '../../timeline/model';
import { motionText, nearestMotion } from './motion';

/** A source as an event shows it. */
type ShownSource = Extract<Source, { kind: 'clip' | 'still' }>;

/** A stretch of one source on the track. */
interface Stretch {
  readonly source: ShownSource;
  readonly start: number;
  readonly length: number;
  /** Slots over which what is before fades into it. */
  readonly fade: number;
  /** What fades out and lies wholly below it, with no event of its own. */
  readonly below: Item | null;
}

const forwards = rational(1);
const speedOf = (source: ShownSource) => (source.kind === 'clip' ? source.speed : rational(0));
/** A text in one line. */
const inOneLine = (text: string) => text.replace(/\s+/g, ' ').trim();

/** What an edit list cannot carry of a track, in words; known before it is written. */
export function edlLosses(timeline: Timeline, track: Track): string[] {
  const losses: string[] = [];
  const others = timeline.tracks.filter((other) => other !== track).length;
  if (others > 0)
    losses.push(
      `${others} other ${others === 1 ? 'track' : 'tracks'}: an edit list holds one picture track.`,
    );
  if (track.name !== 'V1' || !track.on) losses.push('The name of the track, and whether it is on.');
  const count = (what: string, matches: (item: Item, index: number) => boolean, why: string) => {
    const found = track.items.filter(matches).length;
    if (found > 0) losses.push(`${found} ${found === 1 ? 'item' : 'items'} ${what}: ${why}`);
  };
  count('with effects', (item) => item.effects.length > 0, 'effects are not carried.');
  count(
    'of several angles',
    (item) => item.source.kind === 'angles',
    'each stretch becomes an event of its chosen angle.',
  );
  count('that are titles', (item) => item.source.kind === 'title', 'left out, with the fades beside them.');
  count(
    'that are stills',
    (item) => item.source.kind === 'still',
    'they become held frames; the movement is not carried.',
  );
  count(
    'with names of their own',
    (item) => item.source.kind === 'clip' && item.name !== (timeline.media[item.source.media]?.name ?? ''),
    'an edit list has the names of clips.',
  );
  count(
    'at a speed that no motion effect says exactly',
    (item) => item.source.kind === 'clip' && motionText(item.source.speed, timeline.rate) === null,
    'the nearest is written.',
  );
  count(
    'that begin before their media',
    (item) => item.source.kind === 'clip' && labelsOf(timeline, item.source, item.length).isBefore,
    'they begin with its first frame.',
  );
  if (timeline.markers.length > 0)
    losses.push(
      `${timeline.markers.length} ${timeline.markers.length === 1 ? 'marker' : 'markers'}: not carried.`,
    );
  return losses;
}

/**
 * Writes one track as a CMX 3600 edit list. Comments say what the form has no field for and `parseEdl` reads again: the
 * list's rate and picture, whole names of reels, and the rates of sources that have another.
 */
export function writeEdl(timeline: Timeline, track: Track): string {
  const isDropFrame = isDropFrameText(timeline.startTimecode);
  const counting = countingFor(timeline.rate, isDropFrame);
  const origin = parseTimecode(timeline.startTimecode, counting);
  const record = (slot: number) => formatTimecode(origin + slot, counting);
  const fields = reelFields(timeline, track);
  const { rate, width, height } = timeline;
  const lines = [
    `TITLE: ${inOneLine(timeline.name)}`,
    modeLine(isDropFrame),
    `* FRAME RATE: ${ratioText(rate)}`,
    `* RASTER: ${width}x${height}`,
    `* START TIMECODE: ${timeline.startTimecode}`,
    '',
  ];
  let mode = isDropFrame;
  const event = (number: string, shown: Shown, kind: string, from: number, until: number) => {
    // The record tells by itself how it counts where it drops; its sources by the line above them.
    const next = isDropFrame && (shown.isDropFrame || !shown.ref);
    if (next !== mode) lines.push(modeLine(next));
    mode = next;
    lines.push(
      `${number}  ${shown.field.padEnd(8)} V     ${kind.padEnd(8)} ${shown.in} ${shown.out} ${record(from)} ${record(until)}`,
    );
  };
  let last: Shown | null = null;
  stretchesOf(timeline, track).forEach(({ source, start, length, fade, below }, index) => {
    const number = String(index + 1).padStart(3, '0');
    const shown = shownOf(timeline, source, length, fields);
    const outgoing = fade > 0 ? (ownOutgoing(timeline, below, fields) ?? goingOn(last)) : null;
    if (outgoing) event(number, outgoing, 'C', start, start);
    // Before its follower's line: both may come from one reel, at one time of it.
    if (outgoing?.motion) lines.push(motionLine(outgoing, outgoing.motion));
    event(number, shown, outgoing ? `D    ${String(fade).padStart(3, '0')}` : 'C', start, start + length);
    if (shown.motion) lines.push(motionLine(shown, shown.motion));
    if (outgoing) lines.push(...commentsOf(outgoing, 'FROM', rate), ...commentsOf(shown, 'TO', rate));
    else lines.push(...commentsOf(shown, 'FROM', rate));
    last = shown;
  });
  return `${lines.join('\n')}\n`;
}

/** A speed as a motion effect says it, as near as one does. */
const motionOf = (speed: Rational, rate: Rational) => motionText(speed, rate) ?? nearestMotion(speed, rate);
const modeLine = (dropFrame: boolean) => `FCM: ${dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`;
const motionLine = ({ field, in: at }: Shown, motion: string) =>
  `M2   ${field.padEnd(8)} ${motion.padEnd(12)}         ${at}`;

function commentsOf({ ref, field }: Shown, side: 'FROM' | 'TO', rate: Rational): string[] {
  if (!ref) return [];
  return [
    ...(inOneLine(ref.name) === '' ? [] : [`* ${side} CLIP NAME: ${inOneLine(ref.name)}`]),
    ...(ref.reel === null || ref.reel === field ? [] : [`* ${side} REEL NAME: ${inOneLine(ref.reel)}`]),
    ...(equals(ref.rate, rate) ? [] : [`* ${side} CLIP RATE: ${ratioText(ref.rate)}`]),
  ];
}

/** A source as an event has it. */
interface Shown {
  readonly ref: MediaRef | undefined;
  readonly field: string;
  readonly isDropFrame: boolean;
  readonly isBackwards: boolean;
  readonly in: string;
  readonly out: string;
  /** Frames a second where it does not play as shot. */
  readonly motion: string | null;
}

/** First and last source frame of a stretch as timecode of its medium. */
function labelsOf(timeline: Timeline, source: ShownSource, length: number) {
  const ref = timeline.media[source.media];
  const start = ref?.startTimecode ?? null;
  const counting = countingOf(ref?.rate ?? timeline.rate, start);
  const base = start === null ? 0 : frameOr0(start, counting);
  const speed = speedOf(source);
  const first = source.kind === 'clip' ? source.in : 0;
  const span =
    speed.num === 0
      ? 1
      : Math.max(
          1,
          Math.ceil(
            (length * Math.abs(toNumber(speed)) * toNumber(ref?.rate ?? timeline.rate)) /
              toNumber(timeline.rate),
          ),
        );
  const begin = base + (speed.num < 0 ? first - span + 1 : first);
  const isBefore = begin < 0;
  const from = Math.max(0, begin);
  return { ref, counting, from, until: from + span, isBefore };
}

function shownOf(timeline: Timeline, source: ShownSource, length: number, fields: ReelFields): Shown {
  const { ref, counting, from, until } = labelsOf(timeline, source, length);
  const speed = speedOf(source);
  return {
    ref,
    field: fields(ref),
    isDropFrame: counting.dropFrame,
    isBackwards: speed.num < 0,
    in: formatTimecode(from, counting),
    out: formatTimecode(until, counting),
    motion: equals(speed, forwards) ? null : motionOf(speed, timeline.rate),
  };
}

/** The event before as the outgoing side of a dissolve: it goes on where it ended, at its speed. */
function goingOn(last: Shown | null): Shown | null {
  if (!last) return null;
  const at = last.isBackwards ? last.in : last.out;
  return { ...last, in: at, out: at, motion: null };
}

/** The outgoing side of a dissolve that begins with it and has no event of its own; null where there is none. */
function ownOutgoing(timeline: Timeline, below: Item | null, fields: ReelFields): Shown | null {
  const source = below && firstSource(below);
  if (!source) return null;
  // Its speed is always said: without one it would be taken for the event before, going on.
  const shown = shownOf(
    timeline,
    source.kind === 'clip' ? { ...source, speed: forwards } : source,
    1,
    fields,
  );
  return { ...shown, out: shown.in, motion: motionOf(speedOf(source), timeline.rate) };
}

/** What an item shows at first; null for titles. */
function firstSource({ source }: Item): ShownSource | null {
  if (source.kind === 'title') return null;
  if (source.kind !== 'angles') return source;
  const angle = source.angles[source.switches[0]?.angle ?? 0] ?? source.angles[0];
  return angle ? { kind: 'clip', media: angle.media, in: angle.in, speed: forwards } : null;
}

/** A track as events: each item up to where its follower begins, one for each chosen angle. Titles have none. */
function stretchesOf(timeline: Timeline, track: Track): Stretch[] {
  return track.items.flatMap((item, index) => {
    const until = track.items[index + 1]?.start ?? Infinity;
    const length = Math.min(item.length, until - item.start);
    const { source } = item;
    // What lies wholly below its follower is only the outgoing side of that one's dissolve.
    if (source.kind === 'title' || length < 1) return [];
    const before = track.items[index - 1];
    const fade = before?.source.kind === 'title' ? 0 : fadeInSlots(track.items, index);
    const below = before?.start === item.start ? before : null;
    if (source.kind !== 'angles') return [{ source, start: item.start, length, fade, below }];
    return source.switches
      .filter(({ at }) => at < length)
      .flatMap(({ at, angle }, place, all): Stretch[] => {
        const chosen = source.angles[angle] ?? source.angles[0];
        if (!chosen) return [];
        const end = Math.min(length, all[place + 1]?.at ?? length);
        return [
          {
            source: {
              kind: 'clip',
              media: chosen.media,
              in: sourceFrameAt(
                chosen.in,
                at,
                forwards,
                timeline.media[chosen.media]?.rate ?? timeline.rate,
                timeline.rate,
              ),
              speed: forwards,
            },
            start: item.start + at,
            length: end - at,
            fade: place === 0 ? fade : 0,
            below,
          },
        ];
      });
  });
}

function countingOf(rate: Rational, text: string | null): TimecodeCounting {
  try {
    return countingFor(rate, text !== null && isDropFrameText(text));
  } catch {
    return countingFor(rate);
  }
}

function frameOr0(text: string, counting: TimecodeCounting): number {
  try {
    return parseTimecode(text, counting);
  } catch {
    return 0;
  }
}

type ReelFields = (ref: MediaRef | undefined) => string;

/** Letters of a reel in an edit list. */
const reelCharacters = 8;
/** Words that stand for black, or for no reel. */
const taken = ['AX', 'BL', 'BLK', 'BLACK'];

/** Reels as the form has them: eight characters, those of different reels different. */
function reelFields(timeline: Timeline, track: Track): ReelFields {
  const fields = new Map<string, string>();
  const used = new Set(taken);
  const names = track.items.flatMap(({ source }) =>
    source.kind === 'clip' || source.kind === 'still'
      ? [source.media]
      : source.kind === 'angles'
        ? source.angles.map(({ media }) => media)
        : [],
  );
  const reels = [...new Set(names.map((name) => timeline.media[name]?.reel ?? null))].filter(
    (reel) => reel !== null,
  );
  // Those that fit keep their names.
  const fits = (reel: string) => /^[^\s*]\S{0,7}$/.test(reel);
  for (const reel of [...reels.filter(fits), ...reels.filter((one) => !fits(one))]) {
    const plain = reel.trim().replace(/\s+/g, '_').replace(/^\*/, '_').slice(0, reelCharacters) || 'REEL';
    let field = plain;
    for (let number = 2; used.has(field.toUpperCase()); number++) {
      const end = String(number);
      field = `${plain.slice(0, reelCharacters - end.length)}${end}`;
    }
    used.add(field.toUpperCase());
    fields.set(reel, field);
  }
  return (ref) => (ref?.reel == null ? 'AX' : (fields.get(ref.reel) ?? 'AX'));
}
