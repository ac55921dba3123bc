import { faultAt, type Fault } from '../fault';
import { partitionPoint } from '../stats/partitionPoint';
import type { Rational } from '../time/rational';
import { countingFor, isDropFrameText, parseTimecode } from '../time/timecode';

/** A media file that a timeline uses, with what finds it again should it move. */
export interface MediaRef {
  /** Clip in the library; null while the media is missing. */
  readonly clipId: string | null;
  /** File name. */
  readonly name: string;
  /** Tape or card name as interchange files carry it. */
  readonly reel: string | null;
  readonly startTimecode: string | null;
  readonly contentHash: string | null;
  readonly rate: Rational;
  /** Frames in it; 1 for a still. */
  readonly frames: number;
  readonly width: number;
  readonly height: number;
  readonly other?: Other;
}

/** Longest text that is kept of what other programs have with something, characters. */
export const mostOtherCharacters = 100_000;
/** What other programs have with something in an interchange file, as JSON text: it is written back as it came. */
export type Other = string;

/** A rectangle in fractions of a picture: 0 0 1 1 is all of it. */
export interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export const wholePicture: Rect = { x: 0, y: 0, width: 1, height: 1 };

/** Where an item's pictures come from. `in` is the source frame of its first slot. */
export type Source =
  | {
      readonly kind: 'clip';
      readonly media: string;
      readonly in: number;
      /** 1 plays as shot, 2 twice as fast, -1 backwards, 0 holds */ readonly speed: Rational;
    }
  | {
      readonly kind: 'still';
      readonly media: string;
      /** part of the still seen in the first slot, and in the last */ readonly from: Rect;
      readonly to: Rect;
    }
  | {
      readonly kind: 'angles';
      readonly angles: readonly Angle[];
      /** ascending slots from the item's start; the first is at 0 */ readonly switches: readonly AngleSwitch[];
    }
  | { readonly kind: 'title' };

export interface Angle {
  readonly media: string;
  readonly in: number;
}
export interface AngleSwitch {
  readonly at: number;
  readonly angle: number;
}

type Triple = readonly [red: number, green: number, blue: number];

/** One piece of picture work. Those of an item run in their order. */
export type Effect = { readonly id: string; readonly on: boolean } & EffectSettings;

export type EffectSettings =
  | { readonly kind: 'white-balance'; /** gains, 1 leaves as is */ readonly gains: Triple }
  | { readonly kind: 'lift-gamma-gain'; readonly lift: Triple; readonly gamma: Triple; readonly gain: Triple }
  | { readonly kind: 'saturation'; /** 0 grey, 1 as is */ readonly amount: number }
  | { readonly kind: 'lut'; readonly lookId: string | null; readonly name: string }
  | {
      readonly kind: 'transform';
      readonly crop: Rect;
      /** where the cropped picture lies in the timeline's picture */ readonly place: Rect;
      readonly opacity: number;
    }
  | {
      readonly kind: 'title';
      readonly text: string;
      /** letter height over picture height */ readonly size: number;
      readonly x: number;
      readonly y: number;
    }
  | { readonly kind: 'blur'; /** radius over picture height */ readonly radius: number };

export type EffectKind = Effect['kind'];

/** A stretch of one source on a track. Times in slots of the timeline. */
export interface Item {
  readonly id: string;
  readonly name: string;
  readonly start: number;
  readonly length: number;
  readonly source: Source;
  readonly effects: readonly Effect[];
  readonly other?: Other;
}

/**
 * Items in order of their start. Neighbours may overlap: the overlap is their
 * cross-fade. No item overlaps any but its neighbours. What no item covers is a gap.
 */
export interface Track {
  readonly id: string;
  readonly name: string;
  readonly on: boolean;
  readonly items: readonly Item[];
  readonly other?: Other;
}

export interface Marker {
  readonly id: string;
  readonly at: number;
  readonly name: string;
  readonly other?: Other;
}

/** A timeline as it is kept and edited; never changed in place. Tracks lie from the bottom up. */
export interface Timeline {
  readonly name: string;
  readonly rate: Rational;
  readonly width: number;
  readonly height: number;
  /** Timecode of slot 0; with a semicolon it counts drop-frame. */
  readonly startTimecode: string;
  readonly tracks: readonly Track[];
  readonly markers: readonly Marker[];
  readonly media: Readonly<Record<string, MediaRef>>;
  readonly other?: Other;
}

/** Longest timeline: a day at 120 slots a second. */
export const mostSlots = 24 * 3_600 * 120;
/**
 * Slots of a timeline or a part of it.
 * @TJS-type integer
 * @minimum 0
 * @maximum 10368000
 */
export type SlotCount = number;

/** Longest name of a timeline, characters. */
export const mostNameCharacters = 200;

/** A name as a timeline may have it. What is cut off is noted. */
export function shortName(name: string, notes: string[]): string {
  if (name.length <= mostNameCharacters) return name;
  notes.push(`The timeline’s name was shortened to its first ${mostNameCharacters} characters.`);
  return name.slice(0, mostNameCharacters).replace(/[\ud800-\udbff]$/, '');
}

export function endOf(item: Pick<Item, 'start' | 'length'>): number {
  return item.start + item.length;
}

/** Slots from 0 to the end of the last item. */
export function lengthOf(timeline: Timeline): number {
  return timeline.tracks.reduce(
    (most, { items }) => Math.max(most, items.length > 0 ? endOf(items[items.length - 1] as Item) : 0),
    0,
  );
}

/** An item with its track, or null. */
export function findItem(timeline: Timeline, id: string): { track: Track; item: Item; index: number } | null {
  for (const track of timeline.tracks) {
    const index = track.items.findIndex((item) => item.id === id);
    if (index >= 0) return { track, item: track.items[index] as Item, index };
  }
  return null;
}

/** Index of the last item of a track that starts at or before a slot; -1 before the first. */
export function lastStartedBy(items: readonly Item[], slot: number): number {
  return partitionPoint(items.length, (index) => (items[index] as Item).start <= slot) - 1;
}

/** Slots at an item's head over which the item before it fades into it. */
export function fadeInSlots(items: readonly Item[], index: number): number {
  const before = items[index - 1];
  const item = items[index];
  return before && item ? Math.max(0, endOf(before) - item.start) : 0;
}

/** Media that a source reads from. */
function mediaOf(source: Source): string[] {
  switch (source.kind) {
    case 'clip':
    case 'still':
      return [source.media];
    case 'angles':
      return [...new Set(source.angles.map(({ media }) => media))];
    case 'title':
      return [];
  }
}

/** An empty timeline with one track. */
export function emptyTimeline(name: string, rate: Rational, width: number, height: number): Timeline {
  return {
    name,
    rate,
    width,
    height,
    startTimecode: '01:00:00:00',
    tracks: [{ id: 'v1', name: 'V1', on: true, items: [] }],
    markers: [],
    media: {},
  };
}

/**
 * Says what is wrong with a timeline's structure, or null: for documents that come from outside.
 */
export function structureProblem(timeline: Timeline): Fault | null {
  const { rate, startTimecode } = timeline;
  try {
    parseTimecode(startTimecode, countingFor(rate, isDropFrameText(startTimecode)));
  } catch (error) {
    return faultAt(null, 'start-timecode', {
      reason: error instanceof Error ? error.message : String(error),
    });
  }
  const ids = new Set<string>();
  for (const track of timeline.tracks) {
    for (const [index, item] of track.items.entries()) {
      const where = `${item.name || item.id} on ${track.name}`;
      if (ids.has(item.id)) return faultAt(null, 'item-id-twice', { where });
      ids.add(item.id);
      if (
        !Number.isSafeInteger(item.start) ||
        item.start < 0 ||
        !Number.isSafeInteger(item.length) ||
        item.length < 1
      )
        return faultAt(null, 'item-not-whole', { where });
      if (endOf(item) > mostSlots) return faultAt(null, 'item-beyond-longest', { where, most: mostSlots });
      for (const media of mediaOf(item.source))
        if (!Object.hasOwn(timeline.media, media))
          return faultAt(null, 'item-media-unknown', { where, media });
      const next = track.items[index + 1];
      if (next && (next.start < item.start || endOf(next) < endOf(item)))
        return faultAt(null, 'item-inside', { where, inner: next.name || next.id });
      const afterNext = track.items[index + 2];
      if (afterNext && afterNext.start < endOf(item)) return faultAt(null, 'item-overlaps', { where });
    }
  }
  return null;
}

/** Ids of the looks that a timeline refers to. */
export function lookIdsOf({ tracks }: Timeline): ReadonlySet<string> {
  const ids = new Set<string>();
  for (const { items } of tracks)
    for (const { effects } of items)
      for (const effect of effects) if (effect.kind === 'lut' && effect.lookId) ids.add(effect.lookId);
  return ids;
}
