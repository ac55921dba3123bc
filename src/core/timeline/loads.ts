import { upTo } from '../format';
import { rational, toNumber, type Rational } from '../time/rational';
import { slotsAvailable } from './flatten';
import {
  emptyTimeline,
  endOf,
  wholePicture,
  type Effect,
  type EffectSettings,
  type Item,
  type MediaRef,
  type Rect,
  type Timeline,
  type Track,
} from './model';

/** Timelines that load a rig in a known way, built from clips. */

interface NamedMedia {
  readonly id: string;
  readonly ref: MediaRef;
}

function clipItem(
  id: string,
  { id: media, ref }: NamedMedia,
  start: number,
  length: number,
  effects: readonly Effect[] = [],
): Item {
  return {
    id,
    name: ref.name,
    start,
    length,
    source: { kind: 'clip', media, in: 0, speed: rational(1) },
    effects,
  };
}

function track(index: number, items: readonly Item[]): Track {
  return { id: `v${index + 1}`, name: `V${index + 1}`, on: true, items };
}

/** Slots that a clip lasts on a timeline at a rate. */
function slotsOf({ id, ref }: NamedMedia, rate: Rational): number {
  return slotsAvailable(
    { kind: 'clip', media: id, in: 0, speed: rational(1) },
    { rate, media: { [id]: ref } },
  );
}

/** Places of `count` pictures in a grid that is as square as it can be. */
export function gridPlaces(count: number): Rect[] {
  const columns = Math.ceil(Math.sqrt(count));
  const rows = Math.ceil(count / columns);
  return Array.from({ length: count }, (_, at) => ({
    x: (at % columns) / columns,
    y: Math.floor(at / columns) / rows,
    width: 1 / columns,
    height: 1 / rows,
  }));
}

function placed(id: string, place: Rect): Effect {
  return { id, on: true, kind: 'transform', crop: wholePicture, place, opacity: 1 };
}

/** `streams` of one clip side by side, each on a track of its own and read by itself, under `grades` grades each. */
export function sideBySide(
  media: NamedMedia,
  streams: number,
  seconds: number | null = null,
  grades = 0,
): Timeline {
  const { ref } = media;
  const base = emptyTimeline(
    `${streams} streams of ${ref.name}${grades > 0 ? ` with ${grades} ${grades === 1 ? 'grade' : 'grades'}` : ''}`,
    ref.rate,
    ref.width,
    ref.height,
  );
  const length = limited(slotsOf(media, ref.rate), ref.rate, seconds);
  const places = gridPlaces(streams);
  return {
    ...base,
    media: { [media.id]: ref },
    tracks: places.map((place, at) =>
      track(at, [
        clipItem(`s${at}`, media, 0, length, [
          ...(streams > 1 ? [placed(`t${at}`, place)] : []),
          ...gradesOf(`g${at}`, grades),
        ]),
      ]),
    ),
  };
}

/** A clip by itself, at twice its rate: a slot for each field. */
export function fieldBySlot(media: NamedMedia): Timeline {
  const { ref } = media;
  const rate = rational(2 * ref.rate.num, ref.rate.den);
  return {
    ...emptyTimeline(`${ref.name}, field by field`, rate, ref.width, ref.height),
    media: { [media.id]: ref },
    tracks: [track(0, [clipItem('s0', media, 0, slotsOf(media, rate))])],
  };
}

/** One grade as it is used in practice: balance, three-way, saturation. */
const gradeEffects: readonly EffectSettings[] = [
  { kind: 'white-balance', gains: [1.06, 1, 0.95] },
  { kind: 'lift-gamma-gain', lift: [0.01, 0, -0.01], gamma: [1.05, 1, 0.98], gain: [0.98, 1, 1.02] },
  { kind: 'saturation', amount: 1.1 },
];

function gradesOf(prefix: string, grades: number): Effect[] {
  return Array.from({ length: grades }, (_, grade) =>
    gradeEffects.map((settings, at): Effect => ({ id: `${prefix}${grade}-${at}`, on: true, ...settings })),
  ).flat();
}

/** One clip under `grades` grades, each a balance, a three-way correction and a saturation. */
export function graded(media: NamedMedia, grades: number, seconds: number | null = null): Timeline {
  const { ref } = media;
  const effects = gradesOf('g', grades);
  return {
    ...emptyTimeline(
      `${ref.name} with ${grades} ${grades === 1 ? 'grade' : 'grades'}`,
      ref.rate,
      ref.width,
      ref.height,
    ),
    media: { [media.id]: ref },
    tracks: [
      track(0, [clipItem('s0', media, 0, limited(slotsOf(media, ref.rate), ref.rate, seconds), effects)]),
    ],
  };
}

function limited(slots: number, rate: Rational, seconds: number | null): number {
  return seconds === null ? slots : Math.min(slots, Math.max(1, Math.round(seconds * toNumber(rate))));
}

/** A few seconds of every clip one after the other, at one rate: whether each format plays, and how the rig takes the cuts. */
export function runThrough(
  media: readonly NamedMedia[],
  rate: Rational,
  raster: { width: number; height: number },
  seconds: number,
): Timeline {
  const items: Item[] = [];
  for (const one of media)
    items.push(
      clipItem(
        `s${items.length}`,
        one,
        items.length > 0 ? endOf(items[items.length - 1] as Item) : 0,
        limited(slotsOf(one, rate), rate, seconds),
      ),
    );
  return {
    ...emptyTimeline(`Run-through of ${media.length} clips`, rate, raster.width, raster.height),
    media: Object.fromEntries(media.map(({ id, ref }) => [id, ref])),
    tracks: [track(0, items)],
  };
}

/** The timeline at another rate: everything keeps its time to the nearest slot. */
export function conformed(timeline: Timeline, rate: Rational): Timeline {
  const num = timeline.rate.den * rate.num;
  const den = timeline.rate.num * rate.den;
  const at = (slot: number) => Math.round((slot * num) / den);
  return {
    ...timeline,
    name: `${timeline.name} at ${upTo(toNumber(rate), 3)}`,
    rate,
    startTimecode: timeline.startTimecode.replace(/[;:](\d\d)$/, ':00'),
    markers: timeline.markers.map((marker) => ({ ...marker, at: at(marker.at) })),
    tracks: timeline.tracks.map((one) => ({
      ...one,
      items: one.items.map((item): Item => {
        const start = at(item.start);
        const moved = { ...item, start, length: Math.max(1, at(endOf(item)) - start) };
        if (moved.source.kind === 'angles')
          moved.source = {
            ...moved.source,
            switches: moved.source.switches.map((one) => ({ ...one, at: at(one.at) })),
          };
        const most = slotsAvailable(moved.source, { rate, media: timeline.media });
        return most < moved.length ? { ...moved, length: Math.max(1, most) } : moved;
      }),
    })),
  };
}

/** First slot of the minute that weighs most. @param weight of each slot, in any unit */
export function worstMinute(weight: Float64Array, rate: Rational): { from: number; slots: number } {
  const slots = Math.min(weight.length, Math.round(60 * toNumber(rate)));
  let sum = 0;
  let most = -Infinity;
  let from = 0;
  for (let at = 0; at < weight.length; at++) {
    sum += weight[at] as number;
    if (at >= slots) sum -= weight[at - slots] as number;
    if (at >= slots - 1 && sum > most) {
      most = sum;
      from = at - slots + 1;
    }
  }
  return { from, slots };
}
