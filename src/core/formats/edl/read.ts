import {
  countingFor,
  formatTimecode,
  nearestTimecode,
  canDropFrames,
  type TimecodeCounting,
} from '../../time/timecode';
import { equals, ratioText, rational, toNumber, type Rational } from '../../time/rational';
import { sourceFrameAt } from '../../timeline/flatten';
import {
  emptyTimeline,
  endOf,
  type Item,
  type MediaRef,
  type Timeline,
  type Track,
} from '../../timeline/model';
import { greatest, least } from '../../stats/extremes';
import { EdlError } from './error';
import { readEvents, type EdlEvent, type EdlList, type EdlSide } from './events';
import { motionSpeed } from './motion';

/** A timeline read from an edit list, with what was read but cannot be kept, or is kept otherwise than it stands there. */
export interface EdlImport {
  readonly timeline: Timeline;
  readonly notes: readonly string[];
}

/**
 * Reads a CMX 3600 edit list: picture events with cuts and dissolves, drop-frame and non-drop by the FCM line above each,
 * motion effects (M2), and comments with names of clips. Wipes become dissolves of their length; keys lie on a track of
 * their own, which is off; sound events are named and left out.
 * @param rate the list's frame rate, which the form itself does not carry
 * @throws EdlError naming the line and what is wrong there
 */
export function parseEdl(text: string, rate: Rational, raster = { width: 1920, height: 1080 }): EdlImport {
  const notes: string[] = [];
  const list = readEvents(text, notes);
  if (list.rate && !equals(list.rate, rate))
    notes.push(
      `The list says that it counts at ${ratioText(list.rate)} frames per second; it was read at ${ratioText(rate)}.`,
    );
  return { timeline: new Placing(list, rate, list.raster ?? raster, notes).timeline(), notes };
}

/** Frames a second that sources have, in the order in which they are tried where a list does not say. */
const sourceBases = [24, 25, 30, 48, 50, 60, 100, 120];
const isBlack = (reel: string) => /^(BL|BLACK|BLK)$/i.test(reel);
/** `AX` is a source without a reel. */
const reelOf = (event: EdlEvent, side: EdlSide) =>
  side.reel ?? (/^AX$/i.test(event.reel) ? null : event.reel);

/** Where an event lies in the record, slots. */
interface Placed {
  readonly event: EdlEvent;
  readonly at: number;
  readonly length: number;
}

/** A track as it is filled. */
interface Filled {
  readonly items: Item[];
  /** What the last item was read from. */
  last: EdlEvent | null;
}

/** Number of the track of keys among those of pictures, which begin at 1. */
const keyTrack = 0;
/** Semicolon and comma count drop-frame. */
const isDropText = (text: string) => /[;,]\d{2,3}$/.test(text);
/** A timecode's label, to be compared by its letters. */
const labelOf = (text: string) => text.replace(/[;.,]/g, ':');

class Placing {
  private readonly tracks = new Map<number, Filled>();
  private readonly clips = new Map<
    string,
    Pick<MediaRef, 'name' | 'reel' | 'rate'> & { dropFrame: boolean }
  >();
  private readonly base: number;
  /** How the record counts, where no event says otherwise. */
  private readonly counting: TimecodeCounting;
  private readonly origin: string;
  private readonly firstLine: number;
  private count = 0;

  constructor(
    private readonly list: EdlList,
    private readonly rate: Rational,
    private readonly raster: { readonly width: number; readonly height: number },
    private readonly notes: string[],
  ) {
    const { events } = list;
    const [first] = events;
    this.firstLine = first?.line ?? 1;
    this.base = countingFor(rate).framesPerSecond;
    const hour = `${this.hourOfFirst()}:00:00:00`;
    const start = list.start ?? hour;
    const isBefore = events.every(({ times }) => labelOf(times[2]) >= labelOf(start));
    if (list.start !== null && !isBefore)
      notes.push(
        `The list says that it starts at ${list.start}, and has events before; it was read from ${hour}.`,
      );
    this.origin = isBefore ? start : hour;
    const isDrop = isDropText(this.origin) || isDropText(first?.times[2] ?? '') || first?.dropFrame === true;
    this.counting = this.countingOf(isDrop, rate, this.firstLine);
  }

  /** The hour in which the record begins; a list that crosses midnight begins before it. */
  private hourOfFirst(): string {
    const hours = this.list.events.map(({ times }) => Number(times[2].slice(0, 2)));
    if (hours.length === 0) return '01';
    const late = hours.filter((hour) => hour >= 12);
    const first = greatest(hours) - least(hours) > 12 && late.length > 0 ? least(late) : least(hours);
    return String(first).padStart(2, '0');
  }

  timeline(): Timeline {
    for (const group of this.inRecordOrder()) this.place(group);
    const filled = [...this.tracks].filter(([number]) => number !== keyTrack).sort(([a], [b]) => a - b);
    const tracks: Track[] = filled.map(([number, { items }]) => ({
      id: `v${number}`,
      name: `V${number}`,
      on: true,
      items,
    }));
    const keys = this.tracks.get(keyTrack);
    if (keys) tracks.push({ id: 'keys', name: 'Keys', on: false, items: keys.items });
    const empty = emptyTimeline(this.list.title, this.rate, this.raster.width, this.raster.height);
    const media = this.mediaUsed(tracks.flatMap(({ items }) => items));
    return {
      ...empty,
      startTimecode: formatTimecode(this.originIn(this.counting), this.counting),
      media: Object.fromEntries([...media].map(([key, { ref }]) => [key, ref])),
      tracks:
        tracks.length === 0
          ? empty.tracks
          : tracks.map((track) => ({
              ...track,
              // Until now sources counted from midnight; they count from their media's start.
              items: track.items.map((item) =>
                item.source.kind === 'clip'
                  ? {
                      ...item,
                      source: {
                        ...item.source,
                        in: item.source.in - (media.get(item.source.media)?.first ?? 0),
                      },
                    }
                  : item,
              ),
            })),
    };
  }

  private countingOf(dropFrame: boolean, rate: Rational, line: number): TimecodeCounting {
    if (dropFrame && !canDropFrames(rate))
      throw new EdlError(line, 'no-drop-frame', { num: rate.num, den: rate.den });
    return countingFor(rate, dropFrame);
  }

  /** Frames from midnight of a timecode; one that drop-frame skips is named. */
  private frame(text: string, counting: TimecodeCounting, line: number, notes = this.notes): number {
    try {
      const { frame, isSkipped } = nearestTimecode(labelOf(text), counting);
      if (isSkipped)
        notes.push(
          `Line ${line}: ${text} does not exist in drop-frame timecode; ${formatTimecode(frame, counting)} was taken.`,
        );
      return frame;
    } catch (error) {
      throw new EdlError(line, 'timecode-unsound', {
        reason: error instanceof Error ? error.message : String(error),
      });
    }
  }

  /** Frames from midnight of slot 0. */
  private originIn(counting: TimecodeCounting): number {
    return this.frame(this.origin, counting, this.firstLine, []);
  }

  /** Slots from the origin to a time of the record. */
  private slot(text: string, counting: TimecodeCounting, line: number, notes: string[]): number {
    const slot = this.frame(text, counting, line, notes) - this.originIn(counting);
    return slot < -counting.framesPerSecond * 43_200 ? slot + this.dayOf(counting) : slot;
  }

  /** Frames of a day. */
  private dayOf(counting: TimecodeCounting): number {
    return this.frame('23:59:59:00', counting, this.firstLine) + counting.framesPerSecond;
  }

  private recordCounting({ times, dropFrame, line }: EdlEvent): TimecodeCounting {
    return this.countingOf(dropFrame || isDropText(times[2]), this.rate, line);
  }

  private placed(event: EdlEvent, counting: TimecodeCounting, notes = this.notes): Placed {
    const { times, line } = event;
    const at = this.slot(times[2], counting, line, notes);
    return { event, at, length: this.slot(times[3], counting, line, notes) - at };
  }

  /** Lists need not be in the order of their record: those of equal number belong together and stay so. */
  private inRecordOrder(): Placed[] {
    const groups: { readonly at: number; readonly placed: Placed[] }[] = [];
    let number: string | null = null;
    for (const event of this.list.events) {
      const placed = this.placed(event, this.recordCounting(event));
      const group = groups.at(-1);
      if (group && number === event.number && group.placed.length < 2) group.placed.push(placed);
      else groups.push({ at: placed.at, placed: [placed] });
      ({ number } = event);
    }
    return groups.toSorted((a, b) => a.at - b.at).flatMap(({ placed }) => placed);
  }

  private trackOf({ kind, track }: EdlEvent): Filled {
    const number = kind === 'key' ? keyTrack : track;
    const known = this.tracks.get(number);
    if (known) return known;
    const made: Filled = { items: [], last: null };
    this.tracks.set(number, made);
    return made;
  }

  /**
   * Where an event lies that counts otherwise than the list begins: by its own count, but where that tears it from the
   * event before and the list's own count joins them, by the list's.
   */
  private joined(own: Placed, before: Item | undefined): Placed {
    const { event } = own;
    if (event.dropFrame === this.counting.dropFrame || isDropText(event.times[2])) return own;
    const listed = this.placed(event, this.counting, []);
    const end = before ? endOf(before) : 0;
    const isTorn = own.at < end || (own.at !== end && listed.at === end);
    return isTorn && listed.at >= end ? listed : own;
  }

  /** The outgoing side of a dissolve, which has a line of its own. */
  private outgoing: EdlEvent | null = null;

  private place(own: Placed): void {
    const { event } = own;
    const track = this.trackOf(event);
    const before = track.items.at(-1);
    const { at, length } = this.joined(own, before);
    const { line, number } = event;
    if (length < 0) throw new EdlError(line, 'ends-before-begin', { number });
    if (length === 0) {
      this.outgoing = event;
      return;
    }
    const outgoing = this.outgoing?.number === number ? this.outgoing : null;
    this.outgoing = null;
    if (isBlack(event.reel)) {
      if (event.transitionFrames > 0)
        this.notes.push(`Line ${line}: event ${number} dissolves to black; the fade was left out.`);
      return;
    }
    if (before && endOf(before) > at) {
      if (event.kind !== 'key') throw new EdlError(line, 'events-overlap', { number });
      this.notes.push(`Line ${line}: event ${number} is a key over another key, and was left out.`);
      return;
    }
    const fade = event.transitionFrames;
    if (fade > length) throw new EdlError(line, 'dissolve-too-long', { number });
    if (fade > 0) this.fade(track, { event, at, length }, outgoing);
    if (event.kind !== 'cut' && event.kind !== 'dissolve')
      this.notes.push(
        event.kind === 'key'
          ? `Line ${line}: event ${number} is a key: its picture lies on the track Keys, which is off, since the key itself is not carried.`
          : `Line ${line}: event ${number} is the background of a key and was taken as a cut.`,
      );
    // Of a dissolve the names of both sides stand behind it: TO is this event's.
    const side = fade > 0 ? event.to : withNames(event.to, event.from);
    track.items.push(this.item({ event, at, length }, side));
    track.last = event;
  }

  /** What fades out: the item before, which plays on below the incoming one, or a source of its own. */
  private fade(track: Filled, { event, at }: Placed, outgoing: EdlEvent | null): void {
    const { line, number, transitionFrames: length } = event;
    const before = track.items.at(-1);
    const isJoined = before !== undefined && endOf(before) === at;
    if (isJoined && (outgoing === null || continues(outgoing, track.last))) {
      track.items[track.items.length - 1] = { ...before, length: before.length + length };
      return;
    }
    if (outgoing === null || isBlack(outgoing.reel)) {
      this.notes.push(`Line ${line}: event ${number} dissolves from black; the fade was left out.`);
      return;
    }
    track.items.push(this.item({ event: outgoing, at, length }, event.from));
  }

  private item({ event, at, length }: Placed, side: EdlSide): Item {
    const { line, number } = event;
    const rate = side.rate ?? this.sourceRate(event, length);
    const speed = event.motion === null ? rational(1) : motionSpeed(event.motion, this.rate);
    const isDrop = (text: string) => isDropText(text) || (event.dropFrame && canDropFrames(rate));
    const read = (text: string) => this.frame(text, this.countingOf(isDrop(text), rate, line), line);
    const first = read(event.times[0]);
    const counting = countingFor(rate, isDrop(event.times[0]));
    const until = read(event.times[1]);
    const end = until < first - counting.framesPerSecond * 43_200 ? until + this.dayOf(counting) : until;
    if (end < first) throw new EdlError(line, 'ends-before-begin', { number });
    if (event.motion === null && end !== first) {
      const shown = (length * toNumber(rate)) / toNumber(this.rate);
      if (Math.abs(end - first - shown) >= 1)
        this.notes.push(
          `Line ${line}: event ${number} has ${end - first} frames of its source for ${length} of the record and no motion effect; it plays at 1x from its source in.`,
        );
    }
    const name = side.clip ?? side.reel ?? event.reel;
    const isListRate = equals(rate, this.rate);
    const key = `${side.reel ?? event.reel}/${name}${isListRate ? '' : `@${ratioText(rate)}`}`;
    if (!this.clips.has(key))
      this.clips.set(key, { name, reel: reelOf(event, side), rate, dropFrame: counting.dropFrame });
    return {
      id: `e${++this.count}`,
      name,
      start: at,
      length,
      source: { kind: 'clip', media: key, in: speed.num < 0 && end > first ? end - 1 : first, speed },
      effects: [],
    };
  }

  /**
   * The rate of a source: the list's, but where its frames of the second go beyond what the list counts, one at which it is
   * as long as its event. Without such a one its label does not exist, which its reading says.
   */
  private sourceRate({ times, motion, number, line }: EdlEvent, length: number): Rational {
    const { rate, base } = this;
    const [first, last] = [times[0], times[1]].map((text) => {
      const [hours = 0, minutes = 0, seconds = 0, frames = 0] = labelOf(text).split(':').map(Number);
      return { seconds: (hours * 60 + minutes) * 60 + seconds, frames };
    }) as [{ seconds: number; frames: number }, { seconds: number; frames: number }];
    const frames = Math.max(first.frames, last.frames);
    if (frames < base) return rate;
    const speed = motion === null ? 1 : Math.abs(toNumber(motionSpeed(motion, rate)));
    const found = sourceBases.find((one) => {
      const shown = (last.seconds - first.seconds + (last.frames - first.frames) / one) * base;
      return one > frames && Math.abs(shown - length * speed) < 1;
    });
    if (found === undefined) return rate;
    const source = rational(found * (rate.den === 1001 ? 1000 : 1), rate.den === 1001 ? 1001 : 1);
    this.notes.push(
      `Line ${line}: event ${number} counts more frames a second of its source than the list does; its source was read at ${ratioText(source)}.`,
    );
    return source;
  }

  /** The media that events name, each as long as the events reach in it, with its first frame counted from midnight. */
  private mediaUsed(
    items: readonly Item[],
  ): ReadonlyMap<string, { readonly ref: MediaRef; readonly first: number }> {
    const reach = new Map<string, { low: number; high: number }>();
    for (const { source, length } of items) {
      const clip = source.kind === 'clip' ? this.clips.get(source.media) : undefined;
      if (!clip || source.kind !== 'clip') continue;
      const last = sourceFrameAt(source.in, length - 1, source.speed, clip.rate, this.rate);
      const known = reach.get(source.media) ?? { low: Infinity, high: -Infinity };
      reach.set(source.media, {
        low: Math.min(known.low, source.in, last),
        high: Math.max(known.high, source.in, last),
      });
    }
    return new Map(
      [...reach].flatMap(([key, { low, high }]) => {
        const clip = this.clips.get(key);
        if (!clip) return [];
        // A clip played backwards over its first frame would begin before midnight.
        const first = Math.max(0, low);
        const { dropFrame, ...kept } = clip;
        const ref: MediaRef = {
          ...kept,
          ...this.raster,
          clipId: null,
          startTimecode: formatTimecode(first, countingFor(clip.rate, dropFrame)),
          contentHash: null,
          frames: Math.max(1, high - first + 1),
        };
        return [[key, { ref, first }] as const];
      }),
    );
  }
}

/** What one side says, and where it says nothing the other. */
const withNames = (a: EdlSide, b: EdlSide): EdlSide => ({
  clip: a.clip ?? b.clip,
  reel: a.reel ?? b.reel,
  rate: a.rate ?? b.rate,
});

/**
 * Whether the outgoing side of a dissolve is the event before, going on where it ended. Some writers give it no time of its
 * own, and of what plays at another speed the last frame is counted in more than one way.
 */
function continues(outgoing: EdlEvent, before: EdlEvent | null): boolean {
  if (before === null || outgoing.reel !== before.reel || outgoing.motion !== null) return false;
  const [at] = outgoing.times;
  const [sourceIn, sourceOut] = before.times;
  if (/^[0:;.,]+$/.test(at) || labelOf(at) === labelOf(sourceOut)) return true;
  if (before.motion === null) return false;
  return isBeside(at, before.motion.startsWith('-') ? sourceIn : sourceOut);
}

/** Whether two timecodes are a frame apart or less, as far as their last digits tell. */
function isBeside(a: string, b: string): boolean {
  const [frameA, frameB] = [a, b].map((text) => Number(text.slice(9)));
  const isSameSecond = labelOf(a).slice(0, 8) === labelOf(b).slice(0, 8);
  return isSameSecond && Math.abs((frameA ?? 0) - (frameB ?? 0)) <= 1;
}
