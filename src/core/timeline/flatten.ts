import { rational, type Rational } from '../time/rational';
import {
  endOf,
  lastStartedBy,
  wholePicture,
  type Effect,
  type Item,
  type Rect,
  type Source,
  type Timeline,
  type Track,
  type SlotCount,
} from './model';
import { least } from '../stats/extremes';

/** One picture that a slot shows: which frame of which media, how it is worked on, and how much of it is seen. */
export interface Layer {
  readonly trackIndex: number;
  readonly trackId: string;
  readonly item: Item;
  /** Which angle of its item it is; -1 where it has none. Two angles may be of one medium, and are read apart. */
  readonly angle: number;
  /** Null: the layer draws itself (a title). */
  readonly media: string | null;
  /** Source frame; within the media's frames. */
  readonly frame: number;
  /** Which half of the frame's time holds the slot's start: the field that an interlaced frame shows there. */
  readonly field: 0 | 1;
  /** Effects that are on, in order. */
  readonly effects: readonly Effect[];
  /** 0 to 1, from a cross-fade. The item's own opacity comes on top. */
  readonly fade: number;
  /** Part of the source picture that is used. */
  readonly view: Rect;
}

/** What a slot needs: layers from the bottom up, and frames that are decoded without being seen (angles not chosen). */
export interface SlotContent {
  readonly layers: readonly Layer[];
  readonly alongside: readonly {
    readonly item: Item;
    readonly angle: number;
    readonly media: string;
    readonly frame: number;
  }[];
}

/** The first slot that shows one of these media, with all of them that it needs; slot 0 and none where none is shown. */
export function firstShown(
  timeline: Timeline,
  media: ReadonlySet<string>,
): { slot: number; shown: ReadonlySet<string> } {
  const starts = timeline.tracks.flatMap(({ on, items }) => (on ? items.map(({ start }) => start) : []));
  for (const slot of [...new Set(starts)].sort((a, b) => a - b)) {
    const { layers, alongside } = flattenSlot(timeline, slot);
    const shown = new Set(
      [...layers, ...alongside].flatMap((one) =>
        one.media !== null && media.has(one.media) ? one.media : [],
      ),
    );
    if (shown.size > 0) return { slot, shown };
  }
  return { slot: 0, shown: new Set() };
}

/**
 * The source frame at `slots` after an item's start: the one whose time holds
 * the slot's start. Exact: frames per slot = speed x media rate / timeline rate.
 */
export function sourceFrameAt(
  first: number,
  slots: number,
  speed: Rational,
  mediaRate: Rational,
  rate: Rational,
): number {
  const num = BigInt(slots) * BigInt(speed.num) * BigInt(mediaRate.num) * BigInt(rate.den);
  const den = BigInt(speed.den) * BigInt(mediaRate.den) * BigInt(rate.num);
  // BigInt division truncates towards zero, which mirrors a reverse speed.
  return first + Number(num / den);
}

/**
 * Which half of its source frame's time holds a slot's start (see `sourceFrameAt`): a timeline at twice the rate of its
 * media shows each field in a slot of its own. Backwards the second field comes first.
 */
function sourceFieldAt(slots: number, speed: Rational, mediaRate: Rational, rate: Rational): 0 | 1 {
  const num = BigInt(slots) * BigInt(speed.num) * BigInt(mediaRate.num) * BigInt(rate.den);
  const den = BigInt(speed.den) * BigInt(mediaRate.den) * BigInt(rate.num);
  const rest = num % den;
  const isSecondHalf = 2n * (rest < 0n ? -rest : rest) >= den;
  return isSecondHalf === speed.num >= 0 ? 1 : 0;
}

/** Slots that an item can show from its source frame on, at its speed; Infinity where it holds a picture. */
export function slotsAvailable(source: Source, timeline: Pick<Timeline, 'rate' | 'media'>): number {
  if (source.kind === 'title' || source.kind === 'still') return Infinity;
  if (source.kind === 'angles')
    return least(source.angles.map(({ media, in: first }) => slotsFrom(first, rational(1), media, timeline)));
  return slotsFrom(source.in, source.speed, source.media, timeline);
}

function slotsFrom(
  first: number,
  speed: Rational,
  media: string,
  { rate, media: list }: Pick<Timeline, 'rate' | 'media'>,
): number {
  const ref = list[media];
  if (!ref || speed.num === 0) return Infinity;
  const frames = speed.num > 0 ? ref.frames - first : first + 1;
  // The largest k with k x ratio < frames: k slots reach frame floor((k - 1) x ratio).
  const num = BigInt(Math.max(0, frames)) * BigInt(speed.den) * BigInt(ref.rate.den) * BigInt(rate.num);
  const den = BigInt(Math.abs(speed.num)) * BigInt(ref.rate.num) * BigInt(rate.den);
  return Number((num + den - 1n) / den);
}

/** What a slot of the timeline shows, with every layer's exact source frame. */
export function flattenSlot(timeline: Timeline, slot: number): SlotContent {
  const layers: Layer[] = [];
  const alongside: SlotContent['alongside'][number][] = [];
  timeline.tracks.forEach((track, trackIndex) => {
    if (!track.on) return;
    for (const { item, fade } of itemsAt(track, slot)) {
      const layer = layerOf(timeline, item, track.id, trackIndex, slot - item.start, fade);
      layers.push(layer);
      if (item.source.kind !== 'angles') continue;
      const shown = angleAt(item.source.switches, slot - item.start);
      item.source.angles.forEach(({ media, in: first }, angle) => {
        if (angle !== shown)
          alongside.push({
            item,
            angle,
            media,
            frame: frameOf(timeline, media, first, slot - item.start, rational(1)),
          });
      });
    }
  });
  return { layers, alongside };
}

/** The one or two items of a track that a slot shows; two within a cross-fade, the later one above. */
function itemsAt({ items }: Track, slot: number): { item: Item; fade: number }[] {
  const found: { item: Item; fade: number }[] = [];
  const last = lastStartedBy(items, slot);
  const before = items[last - 1];
  const item = items[last];
  if (before && slot < endOf(before)) found.push({ item: before, fade: 1 });
  if (item && slot < endOf(item)) {
    // Half-slot offsets: a fade over n slots shows neither end fully, as a dissolve of n frames does.
    const overlap = before ? endOf(before) - item.start : 0;
    found.push({
      item,
      fade: overlap > 0 && slot < item.start + overlap ? (slot - item.start + 0.5) / overlap : 1,
    });
  }
  return found;
}

function layerOf(
  timeline: Timeline,
  item: Item,
  trackId: string,
  trackIndex: number,
  slots: number,
  fade: number,
): Layer {
  const { source } = item;
  const base = {
    trackIndex,
    trackId,
    item,
    angle: -1,
    fade,
    effects: item.effects.filter(({ on }) => on),
    view: wholePicture,
  };
  switch (source.kind) {
    case 'title':
      return { ...base, media: null, frame: 0, field: 0 };
    case 'still':
      return {
        ...base,
        media: source.media,
        frame: 0,
        field: 0,
        view: viewOfStill(source, slots, item.length),
      };
    case 'clip':
      return {
        ...base,
        media: source.media,
        frame: frameOf(timeline, source.media, source.in, slots, source.speed),
        field: fieldOf(timeline, source.media, slots, source.speed),
      };
    case 'angles': {
      const chosen = source.angles[angleAt(source.switches, slots)] ? angleAt(source.switches, slots) : 0;
      const angle = source.angles[chosen];
      return angle
        ? {
            ...base,
            angle: chosen,
            media: angle.media,
            frame: frameOf(timeline, angle.media, angle.in, slots, rational(1)),
            field: fieldOf(timeline, angle.media, slots, rational(1)),
          }
        : { ...base, media: null, frame: 0, field: 0 };
    }
  }
}

/** Which angle is chosen at a slot of its item. */
function angleAt(switches: readonly { at: number; angle: number }[], slots: number): number {
  let chosen = switches[0]?.angle ?? 0;
  for (const { at, angle } of switches) if (at <= slots) chosen = angle;
  return chosen;
}

function frameOf(timeline: Timeline, media: string, first: number, slots: number, speed: Rational): number {
  const ref = timeline.media[media];
  if (!ref) return 0;
  return Math.min(ref.frames - 1, Math.max(0, sourceFrameAt(first, slots, speed, ref.rate, timeline.rate)));
}

function fieldOf(timeline: Timeline, media: string, slots: number, speed: Rational): 0 | 1 {
  const ref = timeline.media[media];
  return ref ? sourceFieldAt(slots, speed, ref.rate, timeline.rate) : 0;
}

/** The part of a still that is seen `slots` slots after the start of its item. */
export function viewOfStill(
  { from, to }: Extract<Source, { kind: 'still' }>,
  slots: number,
  length: number,
): Rect {
  const share = length > 1 ? slots / (length - 1) : 0;
  const mix = (key: keyof Rect) => from[key] + (to[key] - from[key]) * share;
  return { x: mix('x'), y: mix('y'), width: mix('width'), height: mix('height') };
}

/** How a run goes over a timeline: from a slot, at a speed, forwards or backwards. */
export interface Course {
  readonly from: number;
  /** Slots of the run. */
  readonly slots: SlotCount;
  /** 1, 2, 4, 8 or negative. */
  readonly speed: number;
  /** Slots of the timeline (from, to excluded) that the run goes round in; null: it goes straight on. */
  readonly loop?: { readonly from: number; readonly to: number } | null;
  /** Stretches that are shown from what was rendered of them before; absent: all is worked out anew. They do not overlap. */
  readonly prerendered?: readonly PrerenderedPart[];
}

/** A stretch of a timeline that was rendered before. */
export interface PrerenderedPart {
  /** Slots of the timeline, `to` excluded. */
  readonly from: number;
  readonly to: number;
  /** The medium that holds it, and the timeline's slot that its first frame shows. */
  readonly media: string;
  readonly origin: number;
}

/** The timeline's slot that the run shows in its own slot `index`. */
export function courseSlot({ from, speed, loop }: Course, index: number): number {
  const straight = from + index * speed;
  if (!loop) return straight;
  const length = loop.to - loop.from;
  return loop.from + ((((straight - loop.from) % length) + length) % length);
}

/** Tells what each slot of the timeline shows in a run: a part that was rendered before, where the run uses one, or all that the timeline has there. */
export function courseContents(
  timeline: Timeline,
  { prerendered = [] }: Pick<Course, 'prerendered'>,
): (slot: number) => SlotContent {
  const parts = prerendered.map((part) => ({ ...part, item: prerenderedItem(part) }));
  return (slot) => {
    const part = partAt(parts, slot);
    if (!part) return flattenSlot(timeline, slot);
    const { media, origin, item } = part;
    const layer: Layer = {
      trackIndex: timeline.tracks.length,
      trackId: prerenderedTrack,
      item,
      angle: -1,
      media,
      frame: slot - origin,
      field: 0,
      effects: [],
      fade: 1,
      view: wholePicture,
    };
    return { layers: [layer], alongside: [] };
  };
}

/** The rendered part that holds a slot; undefined where none does. */
export function partAt<Part extends PrerenderedPart>(parts: readonly Part[], slot: number): Part | undefined {
  return parts.find(({ from, to }) => from <= slot && slot < to);
}

/** The track that rendered parts lie on, above all others. */
export const prerenderedTrack = 'prerendered';

/** A rendered part as an item of a timeline. */
export function prerenderedItem({ from, to, media, origin }: PrerenderedPart): Item {
  return {
    id: `${prerenderedTrack}-${from}`,
    name: 'Pre-rendered',
    start: from,
    length: to - from,
    source: { kind: 'clip', media, in: from - origin, speed: rational(1) },
    effects: [],
  };
}

/** Slots a run over the rest of a timeline takes, from a slot on, at a speed. */
export function courseLength(total: number, from: number, speed: number): number {
  const reach = speed > 0 ? total - from : from + 1;
  return Math.max(0, Math.ceil(Math.min(reach, total) / Math.abs(speed)));
}
