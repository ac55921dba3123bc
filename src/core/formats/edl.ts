import { wordsFor, type About } from '../failure';
import { coreWords, type CoreCode } from '../words';
import { isKept } from '../edge/strict';
import { rational, toNumber, type Rational } from '../time/rational';
import {
  countingFor,
  formatTimecode,
  isDropFrameText,
  parseTimecode,
  type TimecodeCounting,
} from '../time/timecode';
import { sourceFrameAt } from '../timeline/flatten';
import {
  emptyTimeline,
  endOf,
  fadeInSlots,
  shortName,
  type Item,
  type MediaRef,
  type Source,
  type Timeline,
  type Track,
} from '../timeline/model';
import { least } from '../stats/extremes';

/** What is wrong in an edit list, and where. `line` counts from 1. */
export class EdlError<Code extends CoreCode = CoreCode> extends Error {
  override name = 'EdlError';
  constructor(
    readonly line: number,
    readonly code: Code,
    ...[given]: About<(typeof coreWords)[Code]>
  ) {
    super(`Line ${line}: ${wordsFor(coreWords[code], given)}`);
  }
}

interface EdlEvent {
  readonly line: number;
  readonly number: string;
  readonly reel: string;
  readonly kind: string;
  readonly transitionFrames: number;
  readonly times: readonly [sourceIn: string, sourceOut: string, recordIn: string, recordOut: string];
  speed: Rational | null;
  fromClip: string | null;
  toClip: string | null;
}

/** A timeline read from an edit list, with what was read but cannot be kept. */
export interface EdlImport {
  readonly timeline: Timeline;
  readonly notes: readonly string[];
}

const eventPattern =
  /^(\d{1,6})\s+(\S+)\s+(\S+)\s+(C|D|W\d{1,3}|KB?|K\s?O|KO)(?:\s+(\d{1,4}))?\s+(\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s+(\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s+(\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s+(\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d)\s*$/;

/** Most events of a list; the longest films have some thousands. */
const mostEvents = 50_000;

/**
 * Reads a CMX 3600 edit list: video events with cuts and dissolves, drop-frame
 * and non-drop (FCM), motion effects (M2) and clip-name comments. Wipes become
 * dissolves of their length; keys and sound events are named and left out.
 * @param rate the list's frame rate, which the form itself does not carry
 * @throws EdlError naming the line and what is wrong there
 */
export function parseEdl(text: string, rate: Rational, raster = { width: 1920, height: 1080 }): EdlImport {
  const notes: string[] = [];
  const events: EdlEvent[] = [];
  /** The last event of each reel. */
  const ofReel = new Map<string, EdlEvent>();
  let title = 'Edit list';
  let dropFrame = false;
  let last: EdlEvent | null = null;
  text
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\n|\r/)
    .forEach((raw, index) => {
      const line = index + 1;
      if (!isKept(raw)) throw new EdlError(line, 'no-text');
      const content = raw.trim();
      if (content === '' || /^(>>>|SPLIT:)/.test(content)) return;
      const named = /^TITLE:\s*(.*)$/i.exec(content);
      if (named) {
        title = shortName(named[1]?.trim() || title, notes);
        return;
      }
      const fcm = /^FCM:\s*(.*)$/i.exec(content);
      if (fcm) {
        if (!/^(NON[- ]DROP[- ]FRAME|DROP[- ]FRAME)$/i.test(fcm[1]?.trim() ?? ''))
          throw new EdlError(line, 'frame-count-mode', { content });
        dropFrame = !/^NON/i.test(fcm[1] ?? '');
        return;
      }
      const motion = /^M2\s+(\S+)\s+([+-]?\d{1,6}(?:\.\d{1,6})?)\s+\d\d[:;.]\d\d[:;.]\d\d[:;.]\d\d\s*$/.exec(
        content,
      );
      if (motion) {
        const of = ofReel.get(motion[1] ?? '') ?? last;
        if (!of) throw new EdlError(line, 'motion-before-event');
        of.speed = speedOf(motion[2] as string, rate);
        return;
      }
      if (content.startsWith('*')) {
        if (last) noteClipName(content, last);
        return;
      }
      const found = eventPattern.exec(content);
      if (!found) {
        if (/^\d/.test(content)) throw new EdlError(line, 'no-event', { content: content.slice(0, 60) });
        if (!/^(M1|AUD|EFFECTS NAME|B_W|FOCUS|MASTER)/i.test(content))
          notes.push(`Line ${line}: "${content.slice(0, 60)}" is not known and was left out.`);
        return;
      }
      const [, number = '', reel = '', tracks = '', kind = '', frames, ...times] = found;
      if (!/^(V|VA\d*|B|AA?\/V|V\d*)$/i.test(tracks)) {
        notes.push(`Line ${line}: event ${number} is for ${tracks}, not for the picture, and was left out.`);
        return;
      }
      if (kind.startsWith('K')) {
        notes.push(`Line ${line}: event ${number} is a key, which was left out.`);
        return;
      }
      if (kind !== 'C' && frames === undefined)
        throw new EdlError(line, kind === 'D' ? 'dissolve-without-length' : 'wipe-without-length', {
          number,
        });
      if (kind.startsWith('W'))
        notes.push(`Line ${line}: the wipe of event ${number} became a dissolve of the same length.`);
      last = {
        line,
        number,
        reel,
        kind,
        transitionFrames: kind === 'C' ? 0 : Number(frames),
        times: times as unknown as EdlEvent['times'],
        speed: null,
        fromClip: null,
        toClip: null,
      };
      if (events.length >= mostEvents) throw new EdlError(line, 'too-many-events', { most: mostEvents });
      events.push(last);
      ofReel.set(reel, last);
    });
  return { timeline: timelineFrom(title, events, rate, dropFrame, raster, notes), notes };
}

function noteClipName(comment: string, event: EdlEvent): void {
  const found = /^\*\s*(FROM|TO) CLIP NAME:\s*(.+)$/i.exec(comment);
  if (found?.[1]?.toUpperCase() === 'FROM') event.fromClip = (found[2] ?? '').trim();
  else if (found) event.toClip = (found[2] ?? '').trim();
}

/** M2 gives frames per second: against the list's rate it is a speed. A list at 23.976 counts in its base of 24. */
function speedOf(text: string, rate: Rational): Rational {
  const [, decimals = ''] = text.split('.');
  const scale = 10 ** decimals.length;
  return rational(Math.round(Number(text) * scale), scale * Math.round(toNumber(rate)));
}

function timelineFrom(
  title: string,
  events: readonly EdlEvent[],
  rate: Rational,
  dropFrame: boolean,
  raster: { width: number; height: number },
  notes: string[],
): Timeline {
  const counting = countingOf(
    rate,
    dropFrame || events.some(({ times }) => isDropFrameText(times[2])),
    events[0]?.line ?? 1,
  );
  const read = (text: string, line: number) => {
    try {
      return parseTimecode(text.replace(/\./g, ':'), counting);
    } catch (error) {
      throw new EdlError(line, 'timecode-unsound', {
        reason: error instanceof Error ? error.message : String(error),
      });
    }
  };
  const begins = events.map(({ times, line }) => read(times[2], line));
  const first = begins.length > 0 ? least(begins) : 0;
  const start =
    events.length > 0
      ? Math.floor(first / (counting.framesPerSecond * 3600)) * counting.framesPerSecond * 3600
      : counting.framesPerSecond * 3600;
  const origin = counting.dropFrame
    ? parseTimecode(
        `${String(Math.floor(Number(formatTimecode(first, counting).slice(0, 2)))).padStart(2, '0')}:00:00;00`,
        counting,
      )
    : start;
  const items: Item[] = [];
  const clipOf = new Map<string, { name: string; reel: string }>();
  for (const event of events) {
    const [sourceIn, sourceOut, recordIn, recordOut] = event.times.map((time) => read(time, event.line)) as [
      number,
      number,
      number,
      number,
    ];
    const length = recordOut - recordIn;
    if (length < 0 || sourceOut < sourceIn)
      throw new EdlError(event.line, 'ends-before-begin', { number: event.number });
    if (length === 0) continue; // the outgoing side of a dissolve
    const at = recordIn - origin;
    if (/^(BL|BLACK|BLK)$/i.test(event.reel)) {
      if (event.transitionFrames > 0)
        notes.push(`Line ${event.line}: event ${event.number} dissolves to black; the fade was left out.`);
      continue;
    }
    const previous = items.at(-1);
    if (previous && endOf(previous) > at)
      throw new EdlError(event.line, 'events-overlap', { number: event.number });
    if (event.transitionFrames > 0 && previous && endOf(previous) === at) {
      if (event.transitionFrames > length)
        throw new EdlError(event.line, 'dissolve-too-long', { number: event.number });
      // The outgoing side plays on below the incoming one.
      items[items.length - 1] = { ...previous, length: previous.length + event.transitionFrames };
    } else if (event.transitionFrames > 0)
      notes.push(`Line ${event.line}: event ${event.number} dissolves from black; the fade was left out.`);
    const speed = event.speed ?? rational(1);
    // Of a dissolve the names of both sides stand behind it: TO is this event's.
    const name = event.toClip ?? (event.transitionFrames > 0 ? null : event.fromClip) ?? event.reel;
    const key = `${event.reel}/${name}`;
    clipOf.set(key, { name, reel: event.reel });
    items.push({
      id: `e${items.length + 1}`,
      name,
      start: at,
      length,
      source: { kind: 'clip', media: key, in: speed.num < 0 ? sourceOut - 1 : sourceIn, speed },
      effects: [],
    });
  }
  // Until now sources counted from midnight; they count from their media's start.
  const media = mediaUsed(items, clipOf, rate, counting, raster);
  const rebased = items.map((item) =>
    item.source.kind === 'clip'
      ? {
          ...item,
          source: {
            ...item.source,
            in:
              item.source.in -
              parseTimecode(media[item.source.media]?.startTimecode ?? '00:00:00:00', counting),
          },
        }
      : item,
  );
  return {
    ...emptyTimeline(title, rate, raster.width, raster.height),
    startTimecode: formatTimecode(origin, counting),
    media,
    tracks: [{ id: 'v1', name: 'V1', on: true, items: rebased }],
  };
}

/** The media that a list's events name, each as long as the events reach in it. */
function mediaUsed(
  items: readonly Item[],
  clips: ReadonlyMap<string, { name: string; reel: string }>,
  rate: Rational,
  counting: TimecodeCounting,
  raster: { width: number; height: number },
): Record<string, MediaRef> {
  const reach = new Map<string, { low: number; high: number }>();
  for (const { source, length } of items) {
    if (source.kind !== 'clip') continue;
    const last = sourceFrameAt(source.in, length - 1, source.speed, rate, rate);
    const known = reach.get(source.media) ?? { low: Infinity, high: -Infinity };
    reach.set(source.media, {
      low: Math.min(known.low, source.in, last),
      high: Math.max(known.high, source.in, last),
    });
  }
  return Object.fromEntries(
    [...reach].map(([key, { low, high }]) => {
      const { name = key, reel = null } = clips.get(key) ?? {};
      // A clip played backwards over its first frame would begin before midnight.
      const first = Math.max(0, low);
      return [
        key,
        {
          clipId: null,
          name,
          reel,
          startTimecode: formatTimecode(first, counting),
          contentHash: null,
          rate,
          frames: high - first + 1,
          ...raster,
        },
      ];
    }),
  );
}

function countingOf(rate: Rational, dropFrame: boolean, line: number): TimecodeCounting {
  try {
    return countingFor(rate, dropFrame);
  } catch {
    throw new EdlError(line, 'no-drop-frame', { num: rate.num, den: rate.den });
  }
}

/** What an edit list cannot carry of a track, in words; known before it is written. */
export function edlLosses(timeline: Timeline, track: Track): string[] {
  const losses: string[] = [];
  const others = timeline.tracks.filter((other) => other !== track && other.items.length > 0).length;
  if (others > 0)
    losses.push(
      `${others} other ${others === 1 ? 'track' : 'tracks'}: an edit list holds one picture track.`,
    );
  const count = (what: string, matches: (item: Item) => boolean, why: string) => {
    const found = track.items.filter(matches).length;
    if (found > 0) losses.push(`${found} ${found === 1 ? 'item' : 'items'} ${what}: ${why}`);
  };
  count('with effects', (item) => item.effects.length > 0, 'effects are not carried.');
  count(
    'of several angles',
    (item) => item.source.kind === 'angles',
    'each stretch becomes an event of its chosen angle.',
  );
  count('that are titles', (item) => item.source.kind === 'title', 'left out.');
  count('that are moving stills', (item) => item.source.kind === 'still', 'the movement is not carried.');
  if (timeline.markers.length > 0)
    losses.push(
      `${timeline.markers.length} ${timeline.markers.length === 1 ? 'marker' : 'markers'}: not carried.`,
    );
  const otherRates = new Set(
    track.items
      .flatMap((item) => (item.source.kind === 'clip' ? [timeline.media[item.source.media]] : []))
      .filter((ref) => ref && toNumber(ref.rate) !== toNumber(timeline.rate)),
  );
  if (otherRates.size > 0)
    losses.push(
      `${otherRates.size} ${otherRates.size === 1 ? 'clip' : 'clips'} at another rate: source timecode is written in the list's rate, with a motion effect.`,
    );
  return losses;
}

/** Writes one track as a CMX 3600 edit list. */
export function writeEdl(timeline: Timeline, track: Track): string {
  const dropFrame = isDropFrameText(timeline.startTimecode);
  const counting = countingFor(timeline.rate, dropFrame);
  const origin = parseTimecode(timeline.startTimecode, counting);
  const tc = (frames: number) => formatTimecode(frames, counting);
  const lines = [
    `TITLE: ${timeline.name.slice(0, 70)}`,
    `FCM: ${dropFrame ? 'DROP FRAME' : 'NON-DROP FRAME'}`,
    '',
  ];
  const flat = track.items.flatMap((item, index) =>
    stretchesOf(item, fadeInSlots(track.items, index), nextStart(track, index)),
  );
  let outgoing: Written | null = null;
  flat.forEach(({ item, source, start, length, fade }, index) => {
    const number = String(index + 1).padStart(3, '0');
    const written = sourceTimes(timeline, source, length, counting);
    const record = `${tc(origin + start)} ${tc(origin + start + length)}`;
    if (fade > 0 && outgoing) {
      lines.push(
        `${number}  ${reelField(outgoing.reel)} V     C        ${tc(outgoing.end)} ${tc(outgoing.end)} ${tc(origin + start)} ${tc(origin + start)}`,
      );
      lines.push(
        `${number}  ${reelField(written.reel)} V     D    ${String(fade).padStart(3, '0')} ${tc(written.start)} ${tc(written.end)} ${record}`,
      );
    } else
      lines.push(
        `${number}  ${reelField(written.reel)} V     C        ${tc(written.start)} ${tc(written.end)} ${record}`,
      );
    if (written.framesPerSecond !== null)
      lines.push(
        `M2   ${reelField(written.reel)} ${written.framesPerSecond}                ${tc(written.start)}`,
      );
    if (fade > 0 && outgoing)
      lines.push(`* FROM CLIP NAME: ${outgoing.name}`, `* TO CLIP NAME: ${written.name || item.name}`);
    else lines.push(`* FROM CLIP NAME: ${written.name || item.name}`);
    outgoing = written;
  });
  return `${lines.join('\n')}\n`;
}

interface Written {
  readonly reel: string;
  readonly name: string;
  readonly start: number;
  readonly end: number;
  readonly framesPerSecond: string | null;
}
interface Stretch {
  readonly item: Item;
  readonly source: Source;
  readonly start: number;
  readonly length: number;
  readonly fade: number;
}

function nextStart(track: Track, index: number): number {
  return track.items[index + 1]?.start ?? Infinity;
}

/** An item as events: up to where its follower begins, one per chosen angle. Titles have none. */
function stretchesOf(item: Item, fade: number, until: number): Stretch[] {
  const length = Math.min(item.length, until - item.start);
  const { source } = item;
  if (source.kind === 'title' || length < 1) return [];
  if (source.kind !== 'angles') return [{ item, source, start: item.start, length, fade }];
  return source.switches
    .filter(({ at }) => at < length)
    .map(({ at, angle }, index, all): Stretch => {
      const chosen = source.angles[angle] ?? source.angles[0];
      const end = Math.min(length, all[index + 1]?.at ?? length);
      return {
        item,
        source: { kind: 'clip', media: chosen?.media ?? '', in: (chosen?.in ?? 0) + at, speed: rational(1) },
        start: item.start + at,
        length: end - at,
        fade: index === 0 ? fade : 0,
      };
    });
}

function sourceTimes(
  timeline: Timeline,
  source: Source,
  length: number,
  counting: TimecodeCounting,
): Written {
  const key = source.kind === 'clip' || source.kind === 'still' ? source.media : '';
  const ref = timeline.media[key];
  const base = ref?.startTimecode ? safeTimecode(ref.startTimecode, counting) : 0;
  const speed = source.kind === 'clip' ? source.speed : rational(source.kind === 'still' ? 0 : 1);
  // Source time in the list's rate: frames of another rate are converted by time.
  const first =
    source.kind === 'clip' && ref ? sourceFrameAt(0, source.in, rational(1), timeline.rate, ref.rate) : 0;
  const span = Math.ceil(length * Math.abs(toNumber(speed)));
  const start = base + (speed.num < 0 ? first - span + 1 : first);
  const plain = speed.num === speed.den;
  return {
    reel: ref?.reel ?? 'AX',
    name: ref?.name ?? '',
    start,
    end: start + (speed.num === 0 ? 1 : span),
    framesPerSecond: plain ? null : signed(toNumber(speed) * counting.framesPerSecond),
  };
}

function signed(value: number): string {
  const text = Math.abs(value).toFixed(1).padStart(5, '0');
  return value < 0 ? `-${text}` : text;
}

function safeTimecode(text: string, counting: TimecodeCounting): number {
  try {
    return parseTimecode(text, counting);
  } catch {
    return 0;
  }
}

/** A reel as the form has it: eight characters. */
function reelField(reel: string): string {
  return reel.replace(/\s+/g, '_').slice(0, 8).padEnd(8);
}
