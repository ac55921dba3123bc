import { addMedia, addTrack, insertItem, placeItem } from '@/core/timeline/edits';
import { slotsAvailable } from '@/core/timeline/flatten';
import {
  endOf,
  lengthOf,
  wholePicture,
  type Item,
  type MediaRef,
  type Source,
  type Timeline,
} from '@/core/timeline/model';
import { rational } from '@/core/time/rational';
import { newId } from './effects';

/** A timeline into which something was put, and the items that were. */
export interface Inserted {
  readonly timeline: Timeline;
  readonly ids: ReadonlySet<string>;
  /** The slot behind what was put in. */
  readonly end: number;
}

const stillSeconds = 4;
const stillSlots = ({ rate }: Timeline) => Math.round((stillSeconds * rate.num) / rate.den);

/** The media's id in the document: the one it has, or a new one. */
function mediaId(timeline: Timeline, ref: MediaRef): string {
  return Object.entries(timeline.media).find(([, known]) => known.clipId === ref.clipId)?.[0] ?? newId('m');
}

/** An empty timeline takes its rate and raster from the first clip. */
function fittedTo(timeline: Timeline, ref: MediaRef): Timeline {
  return lengthOf(timeline) > 0 || Object.keys(timeline.media).length > 0
    ? timeline
    : { ...timeline, rate: ref.rate, width: ref.width & ~1, height: ref.height & ~1 };
}

function itemOf(timeline: Timeline, media: string, ref: MediaRef, start: number): Item {
  const source: Source =
    ref.frames === 1
      ? { kind: 'still', media, from: wholePicture, to: { x: 0.15, y: 0.15, width: 0.7, height: 0.7 } }
      : { kind: 'clip', media, in: 0, speed: rational(1) };
  const most = slotsAvailable(source, timeline);
  return {
    id: newId('i'),
    name: ref.name,
    start,
    length: Number.isFinite(most) ? Math.max(1, most) : stillSlots(timeline),
    source,
    effects: [],
  };
}

/** Clips one after the other from a slot on, over what is there or making room. @param trackIndex of the track; the first where there is no such one */
export function withClips(
  timeline: Timeline,
  refs: readonly MediaRef[],
  trackIndex: number,
  slot: number,
  makeRoom = false,
): Inserted {
  let next = timeline;
  let at = slot;
  const ids = new Set<string>();
  for (const ref of refs) {
    next = fittedTo(next, ref);
    const id = mediaId(next, ref);
    next = addMedia(next, id, ref);
    const item = itemOf(next, id, ref, at);
    const track = next.tracks[trackIndex] ?? next.tracks[0];
    if (!track) continue;
    next = makeRoom ? insertItem(next, track.id, item) : placeItem(next, track.id, item);
    ids.add(item.id);
    at += item.length;
  }
  return { timeline: next, ids, end: at };
}

/** Clips as the angles of one item. Null without any. */
export function withAngles(
  timeline: Timeline,
  refs: readonly MediaRef[],
  trackIndex: number,
  slot: number,
): Inserted | null {
  const [first] = refs;
  if (!first) return null;
  let next = fittedTo(timeline, first);
  const angles = refs.map((ref) => {
    const id = mediaId(next, ref);
    next = addMedia(next, id, ref);
    return { media: id, in: 0 };
  });
  const source: Source = { kind: 'angles', angles, switches: [{ at: 0, angle: 0 }] };
  const item: Item = {
    id: newId('i'),
    name: `${refs.length} angles`,
    start: slot,
    length: slotsAvailable(source, next),
    source,
    effects: [],
  };
  const target = next.tracks[trackIndex] ?? next.tracks[0];
  if (!target) return null;
  return { timeline: placeItem(next, target.id, item), ids: new Set([item.id]), end: endOf(item) };
}

/** A title above what it stands on: on the topmost track where that is free, else on one more. */
export function withTitle(timeline: Timeline, slot: number): Inserted {
  const length = stillSlots(timeline);
  const item: Item = {
    id: newId('i'),
    name: 'Title',
    start: slot,
    length,
    source: { kind: 'title' },
    effects: [{ id: newId('e'), on: true, kind: 'title', text: 'Tidewrack', size: 0.1, x: 0.5, y: 0.85 }],
  };
  const top = timeline.tracks.at(-1);
  const isFree =
    timeline.tracks.length > 1 &&
    top?.items.every((other) => endOf(other) <= slot || other.start >= slot + length);
  const next = isFree ? timeline : addTrack(timeline, newId('v'), `V${timeline.tracks.length + 1}`);
  const target = next.tracks.at(-1);
  return {
    timeline: target ? placeItem(next, target.id, item) : next,
    ids: new Set([item.id]),
    end: slot + length,
  };
}
