import { wordsFor, type About } from '../failure';
import { coreWords, type CoreCode } from '../words';
import { equals, rational, toNumber, type Rational } from '../time/rational';
import { canDropFrames, countingFor, formatTimecode, isDropFrameText, parseTimecode } from '../time/timecode';
import { sourceFrameAt } from '../timeline/flatten';
import {
  emptyTimeline,
  endOf,
  fadeInSlots,
  shortName,
  type Effect,
  type Item,
  type Marker,
  type MediaRef,
  type Source,
  type Timeline,
  type Track,
} from '../timeline/model';
import { mediaFrom, TimelineError, timelineFrom } from '../timeline/schema';

/** What is wrong in a timeline file, and where in it. */
export class OtioError<Code extends CoreCode = CoreCode> extends Error {
  override name = 'OtioError';
  constructor(
    readonly place: string,
    readonly code: Code,
    ...[given]: About<(typeof coreWords)[Code]>
  ) {
    super(`${place}: ${wordsFor(coreWords[code], given)}`);
  }
}

export interface OtioImport {
  readonly timeline: Timeline;
  readonly notes: readonly string[];
}

type Json = Readonly<Record<string, unknown>>;
interface Time {
  readonly value: number;
  readonly rate: number;
}
interface Range {
  readonly start: Time;
  readonly duration: Time;
}

const knownRates = [
  rational(24_000, 1001),
  rational(30_000, 1001),
  rational(60_000, 1001),
  rational(48_000, 1001),
  rational(120_000, 1001),
];

/** The exact rate that a decimal stands for: 23.976, 23.98 and 23.976023976 are 24000/1001. */
export function exactRate(value: number): Rational {
  const whole = Math.round(value);
  if (Math.abs(value - whole) < 0.0005) return rational(Math.max(1, whole));
  return (
    knownRates.find((rate) => Math.abs(toNumber(rate) - value) < 0.006) ??
    rational(Math.round(value * 1000), 1000)
  );
}

/**
 * Reads a timeline in OpenTimelineIO's JSON form (schemas Timeline.1, Stack.1,
 * Track.1, Clip.1 and 2, Gap.1, Transition.1, LinearTimeWarp.1, FreezeFrame.1,
 * Marker.1 and 2, ExternalReference.1, MissingReference.1). Sound tracks are left out and named.
 * @throws OtioError naming the place and what is wrong there
 */
export function parseOtio(text: string): OtioImport {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new OtioError('The file', 'otio-no-json', {
      reason: error instanceof Error ? error.message : String(error),
    });
  }
  return new Reader().read(json);
}

/** What a check gives. @throws OtioError for what it refuses */
function sound<Value>(check: () => Value): Value {
  try {
    return check();
  } catch (error) {
    if (error instanceof TimelineError)
      throw new OtioError(error.field ?? 'The timeline', 'otio-unsound', { problem: error.message });
    throw error;
  }
}

class Reader {
  private readonly notes: string[] = [];
  /** Without what objects have by themselves: the names come from the file. */
  private readonly media: Record<string, MediaRef> = Object.create(null) as Record<string, MediaRef>;
  private rate: Rational = rational(24);
  private count = 0;

  read(json: unknown): OtioImport {
    const root = object(json, 'The file');
    if (schemaOf(root) !== 'Timeline')
      throw new OtioError('The file', 'no-timeline', { schema: schemaOf(root) });
    const stack = object(root.tracks, 'tracks');
    const children = list(stack.children, 'tracks.children');
    const name = shortName(typeof root.name === 'string' && root.name ? root.name : 'Timeline', this.notes);
    const start = root.global_start_time ? time(root.global_start_time, 'global_start_time') : null;
    this.rate = exactRate(start?.rate ?? firstRate(children) ?? 24);
    const ours = object(object(root.metadata ?? {}, 'metadata').navvy ?? {}, 'metadata.navvy');
    const tracks: Track[] = [];
    children.forEach((child, index) => {
      const place = `tracks.children[${index}]`;
      const track = object(child, place);
      if (schemaOf(track) !== 'Track') {
        this.notes.push(`${place}: a ${schemaOf(track)} between the tracks was left out.`);
        return;
      }
      if (track.kind !== undefined && track.kind !== 'Video') {
        this.notes.push(
          `${place}: the ${text(track.kind).toLowerCase()} track ${text(track.name)} was left out.`,
        );
        return;
      }
      tracks.push(this.track(track, place, tracks.length));
    });
    const empty = emptyTimeline(name, this.rate, numberOr(ours.width, 1920), numberOr(ours.height, 1080));
    const timeline: Timeline = {
      ...empty,
      media: this.media,
      tracks: tracks.length > 0 ? tracks : empty.tracks,
      markers: this.markers(stack, 'tracks'),
      startTimecode: startText(start, this.rate, ours.dropFrame === true),
    };
    return { timeline: sound(() => timelineFrom(timeline)), notes: this.notes };
  }

  private slots(value: Time): number {
    return Math.round((value.value / value.rate) * toNumber(this.rate));
  }

  private track(track: Json, place: string, index: number): Track {
    const items: Item[] = [];
    let at = 0;
    let pending: { early: number; late: number } | null = null;
    list(track.children, `${place}.children`).forEach((child, number) => {
      const where = `${place}.children[${number}]`;
      const element = object(child, where);
      const kind = schemaOf(element);
      if (kind === 'Transition') {
        pending = {
          early: this.slots(time(element.in_offset, `${where}.in_offset`)),
          late: this.slots(time(element.out_offset, `${where}.out_offset`)),
        };
        return;
      }
      if (kind === 'Gap') {
        at += this.slots(range(element.source_range, `${where}.source_range`).duration);
        pending = null;
        return;
      }
      if (kind !== 'Clip' && kind !== 'Stack') {
        this.notes.push(`${where}: a ${kind} was left out.`);
        return;
      }
      const item = this.item(element, where, at);
      if (!item) return;
      const before = items.at(-1);
      let placed = item;
      if (pending && before && endOf(before) === at) {
        const { early, late } = pending;
        items[items.length - 1] = { ...before, length: before.length + late };
        placed = {
          ...item,
          start: item.start - early,
          length: item.length + early,
          source: earlier(item.source, early, this.media, this.rate),
        };
      } else if (pending) this.notes.push(`${where}: a fade from black was left out.`);
      pending = null;
      at += item.length;
      items.push(placed);
    });
    return {
      id: `v${index + 1}`,
      name: typeof track.name === 'string' && track.name ? track.name : `V${index + 1}`,
      on: track.enabled !== false,
      items,
    };
  }

  private item(element: Json, where: string, at: number): Item | null {
    const ours = object(
      object(element.metadata ?? {}, `${where}.metadata`).navvy ?? {},
      `${where}.metadata.navvy`,
    );
    const reference = this.reference(element, where);
    const available = reference.available_range
      ? range(reference.available_range, `${where}.available_range`)
      : null;
    const source = element.source_range ? range(element.source_range, `${where}.source_range`) : available;
    if (!source) throw new OtioError(where, 'length-unknown');
    const length = this.slots(source.duration);
    if (length < 1) {
      this.notes.push(`${where}: an item shorter than a slot was left out.`);
      return null;
    }
    const base = {
      id: `o${++this.count}`,
      name: typeof element.name === 'string' ? element.name : '',
      start: at,
      length,
      effects: effectsOf(ours.effects),
    };
    // What only this application knows is kept whole in its own metadata.
    const kept = ours.source as Source | undefined;
    if (kept && kept.kind !== 'clip' && ours.media) {
      for (const [key, ref] of Object.entries(object(ours.media, `${where}.metadata.navvy.media`)))
        this.media[key] = sound(() => mediaFrom(ref));
      return { ...base, source: kept };
    }
    if (kept?.kind === 'title') return { ...base, source: kept };
    const media = this.addMedia(element, reference, available, source, ours);
    const ref = this.media[media] as MediaRef;
    const first = source.start.value - (available ? rescale(available.start, source.start.rate) : 0);
    const speed = this.speed(element, where);
    const frame = Math.round((first / source.start.rate) * toNumber(ref.rate));
    const inFrame =
      speed.num < 0
        ? Math.min(
            ref.frames - 1,
            sourceFrameAt(frame, length - 1, rational(Math.abs(speed.num), speed.den), ref.rate, this.rate),
          )
        : frame;
    return { ...base, source: { kind: 'clip', media, in: inFrame, speed } };
  }

  private reference(element: Json, where: string): Json {
    const { media_references: many, active_media_reference_key: active, media_reference: one } = element;
    if (many)
      return object(
        object(many, `${where}.media_references`)[typeof active === 'string' ? active : 'DEFAULT_MEDIA'] ??
          {},
        `${where}.media_references`,
      );
    return object(one ?? {}, `${where}.media_reference`);
  }

  private addMedia(
    element: Json,
    reference: Json,
    available: Range | null,
    source: Range,
    ours: Json,
  ): string {
    const url = typeof reference.target_url === 'string' ? reference.target_url : '';
    const name =
      decode(url.split('/').at(-1) ?? '') ||
      (typeof reference.name === 'string' && reference.name) ||
      (typeof element.name === 'string' ? element.name : '') ||
      'missing';
    const key = typeof ours.mediaId === 'string' ? ours.mediaId : url || name;
    const mediaRate = exactRate(available?.start.rate ?? source.start.rate);
    const whole = available ?? source;
    const end = Math.ceil(
      ((rescale(source.start, whole.start.rate) - (available ? whole.start.value : 0)) / whole.start.rate +
        source.duration.value / source.duration.rate) *
        toNumber(mediaRate),
    );
    const frames = available
      ? Math.round((available.duration.value / available.duration.rate) * toNumber(mediaRate))
      : end;
    const known = this.media[key];
    const original = ours.mediaRef as MediaRef | undefined;
    this.media[key] = known
      ? { ...known, frames: Math.max(known.frames, frames) }
      : {
          clipId: null,
          name,
          reel: typeof original?.reel === 'string' ? original.reel : null,
          contentHash: typeof original?.contentHash === 'string' ? original.contentHash : null,
          startTimecode:
            original?.startTimecode ??
            (available && available.start.value > 0
              ? formatTimecode(Math.round(available.start.value), countingFor(mediaRate))
              : null),
          rate: mediaRate,
          frames: Math.max(1, frames),
          width: numberOr(original?.width, 1920),
          height: numberOr(original?.height, 1080),
        };
    return key;
  }

  private speed(element: Json, where: string): Rational {
    let speed = rational(1);
    list(element.effects ?? [], `${where}.effects`).forEach((child, number) => {
      const effect = object(child, `${where}.effects[${number}]`);
      const kind = schemaOf(effect);
      if (kind === 'FreezeFrame') speed = rational(0);
      else if (kind === 'LinearTimeWarp') {
        const scalar = effect.time_scalar;
        if (typeof scalar !== 'number' || !Number.isFinite(scalar))
          throw new OtioError(`${where}.effects[${number}]`, 'no-time-scalar');
        if (Math.abs(scalar) > mostSpeed)
          throw new OtioError(`${where}.effects[${number}]`, 'speed-too-great', { most: mostSpeed });
        speed = exactSpeed(scalar);
      } else
        this.notes.push(
          `${where}: the effect ${text(effect.effect_name) || text(effect.name) || kind} is not known and was left out.`,
        );
    });
    return speed;
  }

  private markers(owner: Json, place: string): Marker[] {
    return list(owner.markers ?? [], `${place}.markers`)
      .map((child, number) => {
        const marker = object(child, `${place}.markers[${number}]`);
        return {
          id: `m${number + 1}`,
          at: this.slots(range(marker.marked_range, `${place}.markers[${number}].marked_range`).start),
          name: typeof marker.name === 'string' ? marker.name : '',
        };
      })
      .sort((a, b) => a.at - b.at);
  }
}

/** Fastest that a clip is played. */
const mostSpeed = 10_000;

/** A speed as a ratio of small whole numbers where there is one. */
function exactSpeed(value: number): Rational {
  for (let den = 1; den <= 1001; den++)
    if (Math.abs(value * den - Math.round(value * den)) < 1e-7 * den)
      return rational(Math.round(value * den), den);
  return rational(Math.round(value * 10_000), 10_000);
}

function earlier(
  source: Source,
  slots: number,
  media: Readonly<Record<string, MediaRef>>,
  rate: Rational,
): Source {
  if (source.kind !== 'clip') return source;
  const ref = media[source.media];
  return ref ? { ...source, in: sourceFrameAt(source.in, -slots, source.speed, ref.rate, rate) } : source;
}

function effectsOf(value: unknown): readonly Effect[] {
  return Array.isArray(value) ? (value as readonly Effect[]) : [];
}

function startText(start: Time | null, rate: Rational, dropFrame: boolean): string {
  const frames = start ? Math.round((start.value / start.rate) * toNumber(rate)) : 0;
  return formatTimecode(frames, countingFor(rate, dropFrame && canDropFrames(rate)));
}

function schemaOf(value: Json): string {
  return typeof value.OTIO_SCHEMA === 'string' ? (value.OTIO_SCHEMA.split('.')[0] ?? '') : '';
}

function firstRate(tracks: readonly unknown[]): number | null {
  for (const track of tracks) {
    for (const child of Array.isArray((track as Json)?.children)
      ? (track as { children: unknown[] }).children
      : []) {
      const found = (child as { source_range?: { duration?: { rate?: unknown } } | null })?.source_range
        ?.duration?.rate;
      if (typeof found === 'number' && found >= leastRate && found <= mostRate) return found;
    }
  }
  return null;
}

function object(value: unknown, place: string): Json {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new OtioError(place, 'no-object');
  return value as Json;
}

function list(value: unknown, place: string): readonly unknown[] {
  if (!Array.isArray(value)) throw new OtioError(place, 'list-expected');
  return value;
}

/** Of sound the rate of its samples. */
const mostRate = 192_000;
const leastRate = 0.001;
/** Longest time in a file, in its own unit. */
const mostFrames = 1e12;

function time(value: unknown, place: string): Time {
  const { value: amount, rate } = object(value, place);
  if (typeof amount !== 'number' || typeof rate !== 'number' || !(Math.abs(amount) <= mostFrames))
    throw new OtioError(place, 'no-time');
  if (!(rate >= leastRate && rate <= mostRate))
    throw new OtioError(place, 'rate-out-of-range', { most: mostRate });
  return { value: amount, rate };
}

function range(value: unknown, place: string): Range {
  const { start_time: start, duration } = object(value, place);
  return { start: time(start, `${place}.start_time`), duration: time(duration, `${place}.duration`) };
}

function rescale({ value, rate }: Time, to: number): number {
  return Math.abs(rate - to) < 1e-9 ? value : (value * to) / rate;
}

/** A name from the file; nothing where it is none. */
function text(value: unknown): string {
  return typeof value === 'string' ? value : '';
}

function numberOr(value: unknown, otherwise: number): number {
  return typeof value === 'number' && value > 0 ? value : otherwise;
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** What another reader of the file will not see, since the form has no place for it; our own metadata keeps it for Navvy. */
export function otioLosses(timeline: Timeline): string[] {
  const items = timeline.tracks.flatMap((track) => track.items);
  const losses: string[] = [];
  const count = (matches: (item: Item) => boolean, one: string, many: string) => {
    const found = items.filter(matches).length;
    if (found > 0) losses.push(`${found} ${found === 1 ? one : many}`);
  };
  count(
    ({ effects }) => effects.length > 0,
    'item with effects: other readers see it without them.',
    'items with effects: other readers see them without.',
  );
  count(
    ({ source }) => source.kind === 'angles',
    'item of several angles: other readers see its first angle.',
    'items of several angles: other readers see their first angle.',
  );
  count(
    ({ source }) => source.kind === 'still',
    'moving still: other readers see it at rest.',
    'moving stills: other readers see them at rest.',
  );
  count(
    ({ source }) => source.kind === 'title',
    'title: other readers see a clip without media.',
    'titles: other readers see clips without media.',
  );
  return losses;
}

/** Writes a timeline in OpenTimelineIO's JSON form. Effects, angles and the movement of stills stand in `metadata.navvy`. */
export function writeOtio(timeline: Timeline): string {
  const { rate } = timeline;
  const counting = countingFor(rate, isDropFrameText(timeline.startTimecode));
  const value = (frames: number, of: Rational = rate) => ({
    OTIO_SCHEMA: 'RationalTime.1',
    rate: toNumber(of),
    value: frames,
  });
  const span = (start: number, frames: number, of: Rational = rate, lengthRate: Rational = of) => ({
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: value(start, of),
    duration: value(frames, lengthRate),
  });
  const clip = (item: Item, start: number, length: number) => {
    const { source } = item;
    const key =
      source.kind === 'clip' || source.kind === 'still'
        ? source.media
        : source.kind === 'angles'
          ? (source.angles[0]?.media ?? null)
          : null;
    const ref = key === null ? null : (timeline.media[key] ?? null);
    const base = ref?.startTimecode ? framesOf(ref.startTimecode, ref.rate) : 0;
    const speed = source.kind === 'clip' ? source.speed : rational(1);
    const inFrame =
      source.kind === 'clip'
        ? sourceFrameAt(source.in, start - item.start, speed, ref?.rate ?? rate, rate)
        : source.kind === 'angles'
          ? (source.angles[0]?.in ?? 0)
          : 0;
    // Played backwards, the range still names the source's frames from the first to the last.
    const lowest = speed.num < 0 && ref ? sourceFrameAt(inFrame, length - 1, speed, ref.rate, rate) : inFrame;
    return {
      OTIO_SCHEMA: 'Clip.2',
      name: item.name,
      enabled: true,
      markers: [],
      metadata: {
        navvy: {
          ...(item.effects.length > 0 ? { effects: item.effects } : {}),
          ...(source.kind === 'clip'
            ? {}
            : { source, media: Object.fromEntries(mediaEntries(source, timeline)) }),
          ...(ref ? { mediaId: key, mediaRef: { ...ref, clipId: null } } : {}),
        },
      },
      effects: equals(speed, rational(1))
        ? []
        : [
            {
              OTIO_SCHEMA: speed.num === 0 ? 'FreezeFrame.1' : 'LinearTimeWarp.1',
              name: '',
              effect_name: speed.num === 0 ? 'FreezeFrame' : 'LinearTimeWarp',
              metadata: {},
              time_scalar: toNumber(speed),
            },
          ],
      source_range: ref ? span(base + lowest, length, ref.rate, rate) : span(0, length),
      media_references: {
        DEFAULT_MEDIA: ref
          ? {
              OTIO_SCHEMA: 'ExternalReference.1',
              name: ref.name,
              metadata: {},
              available_image_bounds: null,
              available_range: span(base, ref.frames, ref.rate),
              target_url: encodeURIComponent(ref.name),
            }
          : {
              OTIO_SCHEMA: 'MissingReference.1',
              name: '',
              metadata: {},
              available_range: null,
              available_image_bounds: null,
            },
      },
      active_media_reference_key: 'DEFAULT_MEDIA',
    };
  };
  const children = (track: Track) => {
    const out: unknown[] = [];
    let at = 0;
    track.items.forEach((item, index) => {
      const fade = fadeInSlots(track.items, index);
      const next = track.items[index + 1];
      const fadeOut = next ? Math.max(0, endOf(item) - next.start) : 0;
      const start = item.start + Math.floor(fade / 2);
      const end = next && fadeOut > 0 ? next.start + Math.floor(fadeOut / 2) : endOf(item);
      if (start > at)
        out.push({
          OTIO_SCHEMA: 'Gap.1',
          name: '',
          metadata: {},
          effects: [],
          markers: [],
          enabled: true,
          source_range: span(0, start - at),
        });
      if (fade > 0)
        out.push({
          OTIO_SCHEMA: 'Transition.1',
          name: 'Cross-fade',
          metadata: {},
          transition_type: 'SMPTE_Dissolve',
          in_offset: value(start - item.start),
          out_offset: value(fade - (start - item.start)),
        });
      out.push(clip(item, start, end - start));
      at = end;
    });
    return out;
  };
  return `${JSON.stringify(
    {
      OTIO_SCHEMA: 'Timeline.1',
      name: timeline.name,
      metadata: { navvy: { width: timeline.width, height: timeline.height, dropFrame: counting.dropFrame } },
      global_start_time: value(parseTimecode(timeline.startTimecode, counting)),
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        name: 'tracks',
        metadata: {},
        source_range: null,
        effects: [],
        enabled: true,
        markers: timeline.markers.map(({ at, name }) => ({
          OTIO_SCHEMA: 'Marker.2',
          name,
          metadata: {},
          color: 'GREEN',
          comment: '',
          marked_range: span(at, 0),
        })),
        children: timeline.tracks.map((track) => ({
          OTIO_SCHEMA: 'Track.1',
          kind: 'Video',
          name: track.name,
          metadata: {},
          source_range: null,
          effects: [],
          markers: [],
          enabled: track.on,
          children: children(track),
        })),
      },
    },
    null,
    2,
  )}\n`;
}

function mediaEntries(source: Source, timeline: Timeline): [string, MediaRef][] {
  const keys =
    source.kind === 'angles'
      ? source.angles.map(({ media }) => media)
      : source.kind === 'still'
        ? [source.media]
        : [];
  return keys.flatMap((key) => {
    const ref = timeline.media[key];
    return ref ? [[key, { ...ref, clipId: null }]] : [];
  });
}

function framesOf(timecode: string, rate: Rational): number {
  try {
    return parseTimecode(timecode, countingFor(rate, isDropFrameText(timecode)));
  } catch {
    return 0;
  }
}
