import { partitionPoint } from '../stats/partitionPoint';
import { rational, toNumber, type Rational } from '../time/rational';
import { clipTimecode } from '../time/clipTimecode';
import { slotsAvailable, sourceFrameAt, viewOfStill } from './flatten';
import {
  endOf,
  findItem,
  type Effect,
  type Item,
  type Marker,
  type MediaRef,
  type Source,
  type Timeline,
  type Track,
} from './model';
import { least } from '../stats/extremes';

/**
 * Edits take a timeline and give a new one; what did not change is shared with
 * the old, which is the inverse. An edit that cannot be done gives its timeline back
 * unchanged, so that `next === timeline` tells.
 */

type ItemChange = (item: Item) => Item;

function withTrack(
  timeline: Timeline,
  id: string,
  change: (items: readonly Item[]) => readonly Item[],
): Timeline {
  let changed = false;
  const tracks = timeline.tracks.map((track) => {
    if (track.id !== id) return track;
    const items = change(track.items);
    if (items !== track.items) changed = true;
    return items === track.items ? track : { ...track, items };
  });
  return changed ? { ...timeline, tracks } : timeline;
}

/** Changes one item where it stands. */
function changeItem(timeline: Timeline, id: string, change: ItemChange): Timeline {
  const found = findItem(timeline, id);
  if (!found) return timeline;
  const next = change(found.item);
  return next === found.item
    ? timeline
    : withTrack(timeline, found.track.id, (items) => items.map((item) => (item.id === id ? next : item)));
}

/** The source moved on by some slots of the timeline. */
export function sourceFrom(source: Source, slots: number, { rate, media }: Timeline): Source {
  const onward = (first: number, speed: Rational, name: string) =>
    media[name] ? sourceFrameAt(first, slots, speed, media[name].rate, rate) : first;
  switch (source.kind) {
    case 'clip':
      return { ...source, in: onward(source.in, source.speed, source.media) };
    case 'angles':
      return {
        ...source,
        angles: source.angles.map((angle) => ({ ...angle, in: onward(angle.in, rational(1), angle.media) })),
        switches: rebaseSwitches(source.switches, slots),
      };
    default:
      return source;
  }
}

function rebaseSwitches(switches: readonly { at: number; angle: number }[], slots: number) {
  const chosen = switches.filter(({ at }) => at <= slots).at(-1) ?? switches[0] ?? { at: 0, angle: 0 };
  return [
    { at: 0, angle: chosen.angle },
    ...switches.filter(({ at }) => at > slots).map(({ at, angle }) => ({ at: at - slots, angle })),
  ];
}

/** An id for what is cut off an item at a slot, that no other item has. */
function idOfTail(item: Item, at: number, timeline: Timeline): string {
  const wanted = `${item.id}~${at}`;
  for (let number = 1; ; number++) {
    const id = number === 1 ? wanted : `${wanted}~${number}`;
    if (!findItem(timeline, id)) return id;
  }
}

/** The first `slots` slots of an item, and the rest of it under a new id. */
function cut(item: Item, slots: number, timeline: Timeline, newId: string): [Item, Item] {
  const { source } = item;
  const head =
    source.kind === 'still' ? { ...source, to: viewOfStill(source, slots - 1, item.length) } : source;
  const tail =
    source.kind === 'still'
      ? { ...source, from: viewOfStill(source, slots, item.length) }
      : sourceFrom(source, slots, timeline);
  return [
    { ...item, length: slots, source: head },
    { ...item, id: newId, start: item.start + slots, length: item.length - slots, source: tail },
  ];
}

/** Items with the range from `start` to `end` cleared: what lies in it goes, what crosses its ends is trimmed. */
function cleared(items: readonly Item[], start: number, end: number, timeline: Timeline): Item[] {
  const left: Item[] = [];
  for (const item of items) {
    const itemEnd = endOf(item);
    if (itemEnd <= start || item.start >= end) {
      left.push(item);
      continue;
    }
    if (item.start < start) left.push(cut(item, start - item.start, timeline, item.id)[0]);
    if (itemEnd > end) {
      const tail = cut(
        item,
        end - item.start,
        timeline,
        item.start < start ? idOfTail(item, end, timeline) : item.id,
      )[1];
      left.push(tail);
    }
  }
  return left;
}

function inOrder(items: readonly Item[]): Item[] {
  return [...items].sort((a, b) => a.start - b.start || endOf(a) - endOf(b));
}

export function addMedia(timeline: Timeline, id: string, ref: MediaRef): Timeline {
  return { ...timeline, media: { ...timeline.media, [id]: ref } };
}

/** Puts an item on a track over what is there. */
export function placeItem(timeline: Timeline, trackId: string, item: Item): Timeline {
  if (item.start < 0 || item.length < 1) return timeline;
  return withTrack(timeline, trackId, (items) =>
    inOrder([...cleared(items, item.start, endOf(item), timeline), item]),
  );
}

/** Puts an item on a track and moves what lies behind its start out of its way; an item that crosses it is split. */
export function insertItem(timeline: Timeline, trackId: string, item: Item): Timeline {
  if (item.start < 0 || item.length < 1) return timeline;
  return withTrack(timeline, trackId, (items) => {
    const opened = items.flatMap((other) => {
      if (endOf(other) <= item.start) return [other];
      if (other.start >= item.start) return [{ ...other, start: other.start + item.length }];
      const [head, tail] = cut(
        other,
        item.start - other.start,
        timeline,
        idOfTail(other, item.start, timeline),
      );
      return [head, { ...tail, start: tail.start + item.length }];
    });
    return inOrder([...opened, item]);
  });
}

/** Takes items out and leaves gaps. */
export function removeItems(timeline: Timeline, ids: ReadonlySet<string>): Timeline {
  return timeline.tracks.reduce(
    (result, { id }) =>
      withTrack(result, id, (items) => {
        const left = items.filter((item) => !ids.has(item.id));
        return left.length === items.length ? items : left;
      }),
    timeline,
  );
}

/** Takes items out and closes up: what lies behind on their tracks moves forward by the slots that only they covered. */
export function rippleDelete(timeline: Timeline, ids: ReadonlySet<string>): Timeline {
  return timeline.tracks.reduce(
    (result, { id }) =>
      withTrack(result, id, (items) => {
        const kept = items.filter((item) => !ids.has(item.id));
        if (kept.length === items.length) return items;
        const freed = items.flatMap((item, index): [number, number][] => {
          if (!ids.has(item.id)) return [];
          const before = items[index - 1];
          const next = items[index + 1];
          // Within a cross-fade the neighbour stays; of two that go, the overlap counts once.
          const from = before ? Math.max(item.start, endOf(before)) : item.start;
          const to = next && !ids.has(next.id) ? Math.min(endOf(item), next.start) : endOf(item);
          return to > from ? [[from, to]] : [];
        });
        return kept.map((item) => {
          const shift = freed.reduce((sum, [from, to]) => (from < item.start ? sum + to - from : sum), 0);
          return shift === 0 ? item : { ...item, start: item.start - shift };
        });
      }),
    timeline,
  );
}

/** Moves an item's head: later takes slots away, earlier shows more of its source as far as there is some. Stops at its neighbour. */
export function trimStart(timeline: Timeline, id: string, slots: number): Timeline {
  const found = findItem(timeline, id);
  if (!found) return timeline;
  const { track, item, index } = found;
  const before = track.items[index - 1];
  const earliest = Math.max(
    before ? Math.min(endOf(before), item.start) : 0,
    item.start - slotsBefore(item.source, timeline),
  );
  const start = Math.min(endOf(item) - 1 - fadeOut(track, index), Math.max(earliest, item.start + slots));
  if (start === item.start) return timeline;
  const by = start - item.start;
  const source =
    item.source.kind === 'still'
      ? by > 0
        ? { ...item.source, from: viewOfStill(item.source, by, item.length) }
        : item.source
      : sourceFrom(item.source, by, timeline);
  return withTrack(timeline, track.id, (items) =>
    items.map((other) => (other.id === id ? { ...item, start, length: item.length - by, source } : other)),
  );
}

/** Slots that a source has before its first shown frame. */
function slotsBefore(source: Source, timeline: Timeline): number {
  const room = (first: number, speed: Rational, name: string) => {
    const ref = timeline.media[name];
    if (!ref || speed.num === 0) return Infinity;
    const frames = speed.num > 0 ? first : ref.frames - 1 - first;
    return Math.floor(
      (frames * toNumber(timeline.rate)) / (toNumber(ref.rate) * Math.abs(toNumber(speed))) + 1e-9,
    );
  };
  if (source.kind === 'clip') return room(source.in, source.speed, source.media);
  if (source.kind === 'angles')
    return least(source.angles.map(({ media, in: first }) => room(first, rational(1), media)));
  return Infinity;
}

/** Slots of an item's end that its follower fades over. */
function fadeOut({ items }: Track, index: number): number {
  const item = items[index];
  const next = items[index + 1];
  return item && next ? Math.max(0, endOf(item) - next.start) : 0;
}

/** Moves an item's end. Stops at its neighbour and at the end of its source. */
export function trimEnd(timeline: Timeline, id: string, slots: number): Timeline {
  const found = findItem(timeline, id);
  if (!found) return timeline;
  const { track, item, index } = found;
  const before = track.items[index - 1];
  const next = track.items[index + 1];
  const shortest = before ? Math.max(1, endOf(before) - item.start + 1) : 1;
  const longest = Math.min(
    slotsAvailable(item.source, timeline),
    next ? Math.max(next.start, endOf(item)) - item.start : Infinity,
  );
  const length = Math.max(shortest, Math.min(longest, item.length + slots));
  return length === item.length ? timeline : changeItem(timeline, id, () => ({ ...item, length }));
}

/** Shows another stretch of the source in the same place: positive moves on in the source. */
export function slip(timeline: Timeline, id: string, slots: number): Timeline {
  return changeItem(timeline, id, (item) => {
    const most = slotsAvailable(item.source, timeline) - item.length;
    const by = Math.max(-slotsBefore(item.source, timeline), Math.min(most, slots));
    return by === 0 || !Number.isFinite(by)
      ? item
      : { ...item, source: keepSwitches(item.source, sourceFrom(item.source, by, timeline)) };
  });
}

function keepSwitches(before: Source, after: Source): Source {
  return before.kind === 'angles' && after.kind === 'angles'
    ? { ...after, switches: before.switches }
    : after;
}

/** Splits the items of some tracks (null: all) at a slot. */
export function splitAt(
  timeline: Timeline,
  slot: number,
  trackIds: ReadonlySet<string> | null = null,
): Timeline {
  return timeline.tracks.reduce(
    (result, { id }) =>
      trackIds && !trackIds.has(id)
        ? result
        : withTrack(result, id, (items) => {
            const index = items.findIndex((item) => item.start < slot && slot < endOf(item));
            const item = items[index];
            const next = items[index + 1];
            const before = items[index - 1];
            // Not within a cross-fade: a half of it would be none.
            if (!item || (next && next.start <= slot) || (before && endOf(before) > slot)) return items;
            return [
              ...items.slice(0, index),
              ...cut(item, slot - item.start, timeline, idOfTail(item, slot, result)),
              ...items.slice(index + 1),
            ];
          }),
    timeline,
  );
}

/**
 * Moves items by some slots and tracks, over what lies there. All or none:
 * unchanged when one would leave the timeline.
 */
export function moveItems(
  timeline: Timeline,
  ids: ReadonlySet<string>,
  slots: number,
  tracks: number,
): Timeline {
  const moving: { item: Item; track: number }[] = [];
  timeline.tracks.forEach((track, index) => {
    for (const item of track.items) if (ids.has(item.id)) moving.push({ item, track: index + tracks });
  });
  if (moving.length === 0 || (slots === 0 && tracks === 0)) return timeline;
  if (moving.some(({ item, track }) => item.start + slots < 0 || !timeline.tracks[track])) return timeline;
  let result = removeItems(timeline, ids);
  const landed = new Map<number, Item[]>();
  for (const { item, track } of moving)
    landed.set(track, [...(landed.get(track) ?? []), { ...item, start: item.start + slots }]);
  for (const [index, items] of landed) {
    const track = result.tracks[index];
    if (track)
      result = withTrack(result, track.id, (there) =>
        inOrder([
          ...items.reduce((left, item) => cleared(left, item.start, endOf(item), timeline), [...there]),
          ...items,
        ]),
      );
  }
  return result;
}

/**
 * Makes the cut before an item a cross-fade of some slots: half of it is taken from each side's
 * spare source, as far as there is some and no other cross-fade is in the way. 0 makes it a cut again.
 */
export function crossFade(timeline: Timeline, id: string, slots: number): Timeline {
  const found = findItem(timeline, id);
  const before = found?.track.items[found.index - 1];
  if (!found || !before || endOf(before) < found.item.start) return timeline;
  const { item, track, index } = found;
  const [further, next] = [track.items[index - 2], track.items[index + 1]];
  const overlap = endOf(before) - item.start;
  // A slot of each must be left; of two that share their only slot neither can give way.
  const [first, last] = [before.start + 1, endOf(item) - 1];
  if (first > last) return timeline;
  const at = Math.min(last, Math.max(first, item.start + Math.floor(overlap / 2)));
  const early = Math.min(
    Math.floor(slots / 2),
    slotsBefore(item.source, timeline) + at - item.start,
    at - before.start - 1,
    further ? at - endOf(further) : Infinity,
  );
  const late = Math.min(
    slots - Math.floor(slots / 2),
    slotsAvailable(before.source, timeline) - (at - before.start),
    endOf(item) - at - 1,
    next ? next.start - at : Infinity,
  );
  const start = at - Math.max(0, early);
  const source =
    item.source.kind === 'still'
      ? item.source
      : keepSwitches(item.source, sourceFrom(item.source, start - item.start, timeline));
  const changed = { ...item, start, length: endOf(item) - start, source };
  const shortened = { ...before, length: at + Math.max(0, late) - before.start };
  return withTrack(timeline, track.id, (items) =>
    items.map((other) => (other.id === id ? changed : other.id === before.id ? shortened : other)),
  );
}

/** Plays a clip's item at another speed. It keeps its first frame, and its length as far as the source goes. */
export function setSpeed(timeline: Timeline, id: string, speed: Rational): Timeline {
  return changeItem(timeline, id, (item) => {
    if (item.source.kind !== 'clip') return item;
    const source = { ...item.source, speed };
    return { ...item, source, length: Math.max(1, Math.min(item.length, slotsAvailable(source, timeline))) };
  });
}

/** Chooses another angle from a slot on, up to the next switch. */
export function switchAngle(timeline: Timeline, id: string, slot: number, angle: number): Timeline {
  return changeItem(timeline, id, (item) => {
    const at = slot - item.start;
    if (item.source.kind !== 'angles' || !item.source.angles[angle] || at < 0 || at >= item.length)
      return item;
    const switches = [...item.source.switches.filter((other) => other.at !== at), { at, angle }].sort(
      (a, b) => a.at - b.at,
    );
    return {
      ...item,
      source: {
        ...item.source,
        switches: switches.filter((one, index) => switches[index - 1]?.angle !== one.angle),
      },
    };
  });
}

export function setEffects(timeline: Timeline, id: string, effects: readonly Effect[]): Timeline {
  return changeItem(timeline, id, (item) => ({ ...item, effects }));
}

export function addTrack(timeline: Timeline, id: string, name: string): Timeline {
  return { ...timeline, tracks: [...timeline.tracks, { id, name, on: true, items: [] }] };
}

export function changeTrack(
  timeline: Timeline,
  id: string,
  change: Partial<Pick<Track, 'name' | 'on'>>,
): Timeline {
  return {
    ...timeline,
    tracks: timeline.tracks.map((track) => (track.id === id ? { ...track, ...change } : track)),
  };
}

/** Takes a track out with all its items; the last one stays. */
export function removeTrack(timeline: Timeline, id: string): Timeline {
  return timeline.tracks.length < 2
    ? timeline
    : { ...timeline, tracks: timeline.tracks.filter((track) => track.id !== id) };
}

/** Moves a track up (positive) or down in the order of layers. */
export function moveTrack(timeline: Timeline, id: string, by: number): Timeline {
  const from = timeline.tracks.findIndex((track) => track.id === id);
  const to = from + by;
  if (from < 0 || to < 0 || to >= timeline.tracks.length || by === 0) return timeline;
  const tracks = [...timeline.tracks];
  tracks.splice(to, 0, ...tracks.splice(from, 1));
  return { ...timeline, tracks };
}

export function addMarker(timeline: Timeline, marker: Marker): Timeline {
  return {
    ...timeline,
    markers: [...timeline.markers.filter(({ at }) => at !== marker.at), marker].sort((a, b) => a.at - b.at),
  };
}

export function removeMarker(timeline: Timeline, id: string): Timeline {
  const markers = timeline.markers.filter((marker) => marker.id !== id);
  return markers.length === timeline.markers.length ? timeline : { ...timeline, markers };
}

/** Points that a dragged edge may snap to, ascending: ends of items, markers, and the given ones. */
export function snapPoints(
  timeline: Timeline,
  without: ReadonlySet<string>,
  more: readonly number[] = [],
): number[] {
  const points = new Set<number>([0, ...more, ...timeline.markers.map(({ at }) => at)]);
  for (const { items } of timeline.tracks)
    for (const item of items) if (!without.has(item.id)) points.add(item.start).add(endOf(item));
  return [...points].sort((a, b) => a - b);
}

/** How far to shift so that the nearest of some edges meets a snap point within `reach` slots; 0 when none does. */
export function snapShift(points: readonly number[], edges: readonly number[], reach: number): number {
  let best = 0;
  let nearest = reach + 1e-9;
  for (const edge of edges) {
    const next = partitionPoint(points.length, (index) => (points[index] as number) < edge);
    for (const point of [points[next - 1], points[next]]) {
      if (point !== undefined && Math.abs(point - edge) < nearest) {
        nearest = Math.abs(point - edge);
        best = point - edge;
      }
    }
  }
  return best;
}

/** A stretch of a timeline as a timeline of its own; what crosses its ends is trimmed. */
export function excerpt(timeline: Timeline, from: number, slots: number): Timeline {
  const to = from + slots;
  return {
    ...timeline,
    startTimecode: clipTimecode(timeline.startTimecode, timeline.rate)(from),
    markers: timeline.markers
      .filter(({ at }) => at >= from && at < to)
      .map((marker) => ({ ...marker, at: marker.at - from })),
    tracks: timeline.tracks.map((track) => ({
      ...track,
      items: cleared(cleared(track.items, to, Infinity, timeline), 0, from, timeline).map((item) => ({
        ...item,
        start: item.start - from,
      })),
    })),
  };
}
