import { simulate } from '../playback/simulate';
import { gradeOfRun, type Cure } from '../playback/cures';
import type { ChosenWork } from '../playback/measuredWork';
import { countStates } from '../playback/trace';
import type { Work } from '../playback/work';
import { combinationOf, type CourseFeed, type CoursePlan } from './course';
import { endOf, type Effect, type Timeline } from './model';

/** A thing on a timeline that costs time: the whole track, one item of it, or one effect of an item. */
export interface Part {
  readonly kind: 'track' | 'item' | 'effect';
  readonly trackId: string;
  readonly itemId: string | null;
  readonly effectId: string | null;
  /** As people call it: "V2", "TW_WALL_0107.MOV", "blur on TW_WALL_0107.MOV". */
  readonly label: string;
  /** First slot of the timeline that it covers. */
  readonly at: number;
}

/** Measured time of processing one combination of items, with and without each of its parts. Times in µs per slot. */
export interface CombinationCost {
  /** Items from the bottom up, joined by `|` (see `combinationOf`). */
  readonly combination: string;
  readonly totalUs: number;
  readonly withoutUs: readonly {
    readonly itemId: string;
    readonly effectId: string | null;
    readonly us: number;
  }[];
}

/** What was measured of a run's parts: per use of a feed (in the order of `plan.uses`) and per combination of items. */
export interface PartTimes {
  readonly readUs: Float32Array;
  readonly decodeUs: Float32Array;
  readonly combinations: readonly CombinationCost[];
}

/** Drops that would not have been without a part. */
export interface PartCharge extends Part {
  readonly removes: number;
  readonly of: number;
}

/** Streams are as few as remove this share of what one alone would. */
const enough = 0.9;
/** Parts tried at most: each takes a replay. */
const mostParts = 120;

/**
 * Charges a run's drops to tracks, items and effects by the method that charges them to stages: the
 * measured work is simulated anew, as for cures, without the part's share of reading, decoding and processing, and the
 * drops that vanish are its. A part's share of reading and decoding is its share of the time
 * measured per decoder; of processing, the difference measured with and without it after the run.
 * @param trace states of the slots
 * @returns parts with what they would have removed, most first; those that remove nothing are left out
 */
export function chargeParts(
  timeline: Timeline,
  plan: CoursePlan,
  measured: ChosenWork,
  states: Uint8Array,
  times: PartTimes,
): PartCharge[] {
  const { work } = measured;
  const slots = states.length;
  const { dropped } = countStates(states);
  if (dropped === 0) return [];
  // What the player chooses anew without any part less is no part's.
  const gained = Math.max(0, dropped - simulate(work).droppedCount);
  const shares = new Shares(plan, times, slots);
  const removes = (part: Part) => {
    const less = dropped - simulate(shares.without(work, part)).droppedCount;
    return less > gained ? less : 0;
  };
  const charges: PartCharge[] = [];
  let tried = 0;
  for (const part of partsOf(timeline, plan, slots)) {
    if (tried >= mostParts) break;
    // A part of something that changes nothing changes nothing either.
    const owner =
      part.kind === 'track'
        ? null
        : charges.find(
            (charge) =>
              charge.kind === (part.kind === 'effect' ? 'item' : 'track') &&
              (part.kind === 'effect' ? charge.itemId === part.itemId : charge.trackId === part.trackId),
          );
    if (part.kind !== 'track' && !owner) continue;
    tried++;
    const count = removes(part);
    if (count > 0) charges.push({ ...part, removes: count, of: dropped });
  }
  return charges.sort((a, b) => b.removes - a.removes);
}

/**
 * The most streams at once with which nearly all drops vanish that vanish with one: upper tracks are left out first, with their share of
 * the work. Null where no slot shows more than one, or one alone drops as many.
 * @param states of the run's slots
 */
export function fewerStreams(
  timeline: Timeline,
  plan: CoursePlan,
  { work }: ChosenWork,
  states: Uint8Array,
  times: PartTimes,
): Cure | null {
  const { dropped } = countStates(states);
  const shown = new Set(
    plan.contents.slice(0, states.length).flatMap(({ layers }) => layers.map(({ trackId }) => trackId)),
  );
  const tracks = timeline.tracks.filter(({ id }) => shown.has(id)).map(({ id }) => id);
  if (dropped === 0 || tracks.length < 2) return null;
  const shares = new Shares(plan, times, states.length);
  const runWith = (streams: number) => {
    const upper = tracks
      .slice(streams)
      .map((trackId): Less => ({ kind: 'track', trackId, itemId: null, effectId: null }));
    return simulate(shares.without(work, ...upper));
  };
  const ofOne = runWith(1);
  for (let streams = tracks.length - 1; streams >= 1; streams--) {
    const left = streams === 1 ? ofOne : runWith(streams);
    const removes = dropped - left.droppedCount;
    if (removes > 0 && removes >= enough * (dropped - ofOne.droppedCount))
      return { kind: 'streams', streams, most: tracks.length, removes, of: dropped, grade: gradeOfRun(left) };
  }
  return null;
}

/** Tracks, then items, then effects that a run's slots show; heaviest items first is not known yet, so in time's order. */
function partsOf(timeline: Timeline, plan: CoursePlan, slots: number): Part[] {
  const seen = new Set<string>();
  for (let slot = 0; slot < slots; slot++)
    for (const { item } of plan.contents[slot]?.layers ?? []) seen.add(item.id);
  const tracks: Part[] = [];
  const items: Part[] = [];
  const effects: Part[] = [];
  for (const track of timeline.tracks) {
    const shown = track.items.filter(({ id }) => seen.has(id));
    const [first] = shown;
    if (!first) continue;
    tracks.push({
      kind: 'track',
      trackId: track.id,
      itemId: null,
      effectId: null,
      label: track.name,
      at: first.start,
    });
    for (const item of shown) {
      items.push({
        kind: 'item',
        trackId: track.id,
        itemId: item.id,
        effectId: null,
        label: item.name,
        at: item.start,
      });
      for (const effect of item.effects)
        if (effect.on)
          effects.push({
            kind: 'effect',
            trackId: track.id,
            itemId: item.id,
            effectId: effect.id,
            label: `${effectName(effect)} on ${item.name}`,
            at: item.start,
          });
    }
  }
  return [...tracks, ...items, ...effects];
}

const effectNames: Record<Effect['kind'], string> = {
  'white-balance': 'white balance',
  'lift-gamma-gain': 'lift, gamma, gain',
  saturation: 'saturation',
  lut: 'LUT',
  transform: 'transform',
  title: 'title',
  blur: 'blur',
};

/** An effect as the interface calls it. */
export function effectName(effect: Pick<Effect, 'kind'>): string {
  return effectNames[effect.kind];
}

/**
 * The part that a slot's drop is laid at: the item on screen that would have removed most, or that one of its
 * effects that would have removed nearly as much.
 */
export function partOfSlot(
  timeline: Timeline,
  charges: readonly PartCharge[],
  timelineSlot: number,
): PartCharge | null {
  const onScreen = new Set(
    timeline.tracks.flatMap(({ items }) =>
      items.filter((item) => item.start <= timelineSlot && timelineSlot < endOf(item)).map(({ id }) => id),
    ),
  );
  const most = (kind: Part['kind'], of: (charge: PartCharge) => boolean) =>
    charges.filter((charge) => charge.kind === kind && of(charge)).sort((a, b) => b.removes - a.removes)[0] ??
    null;
  const item = most('item', ({ itemId }) => itemId !== null && onScreen.has(itemId));
  if (!item) return null;
  const effect = most('effect', ({ itemId }) => itemId === item.itemId);
  return effect && effect.removes >= 0.8 * item.removes ? effect : item;
}

/** A part as far as its share of the work goes. */
type Less = Pick<Part, 'kind' | 'trackId' | 'itemId' | 'effectId'>;

/** How much of each slot's work parts have. */
class Shares {
  /** Where each slot's uses begin in the columns of times. */
  private readonly first: Uint32Array;
  private readonly costs: ReadonlyMap<string, CombinationCost>;

  constructor(
    private readonly plan: CoursePlan,
    private readonly times: PartTimes,
    private readonly slots: number,
  ) {
    this.first = offsetsOfUses(plan);
    this.costs = new Map(times.combinations.map((cost) => [cost.combination, cost]));
  }

  /** The work as it would have been without some parts. */
  without(work: Work, ...parts: readonly Less[]): Work {
    const media = parts.filter(({ kind }) => kind !== 'effect');
    const read = work.read.slice();
    const decode = work.decode.slice();
    const process = work.process.slice();
    for (let slot = 0; slot < this.slots; slot++) {
      if (media.length > 0) {
        read[slot] = (read[slot] as number) * (1 - this.share(slot, media, this.times.readUs));
        decode[slot] = (decode[slot] as number) * (1 - this.share(slot, media, this.times.decodeUs));
      }
      process[slot] =
        (process[slot] as number) *
        Math.max(0, 1 - parts.reduce((gone, part) => gone + 1 - this.processLeft(slot, part), 0));
    }
    return { ...work, read, decode, process };
  }

  private share(slot: number, parts: readonly Less[], times: Float32Array): number {
    let own = 0;
    let all = 0;
    (this.plan.uses[slot] ?? []).forEach(({ feed }, at) => {
      const time = times[(this.first[slot] as number) + at] ?? Number.NaN;
      if (!(time > 0)) return;
      all += time;
      if (
        parts.some((part) =>
          belongs(this.plan.feeds[feed] as CourseFeed, part, this.plan.contents[slot]?.layers ?? []),
        )
      )
        own += time;
    });
    return all > 0 ? own / all : 0;
  }

  /** Share of the slot's processing that stays without the part. */
  private processLeft(slot: number, part: Less): number {
    const content = this.plan.contents[slot];
    const cost = content && this.costs.get(combinationOf(content));
    if (!content || !cost || !(cost.totalUs > 0)) return 1;
    const of = (itemId: string) =>
      cost.withoutUs.find((one) => one.itemId === itemId && one.effectId === null)?.us ?? cost.totalUs;
    if (part.kind === 'effect') {
      const without = cost.withoutUs.find(
        (one) => one.itemId === part.itemId && one.effectId === part.effectId,
      )?.us;
      return without === undefined ? 1 : Math.min(1, Math.max(0, without / cost.totalUs));
    }
    const items = content.layers.filter(({ item, trackIndex }) =>
      part.kind === 'item' ? item.id === part.itemId : trackIndex === this.trackIndex(part.trackId, content),
    );
    const saved = items.reduce((sum, { item }) => sum + Math.max(0, cost.totalUs - of(item.id)), 0);
    return Math.min(1, Math.max(0, 1 - saved / cost.totalUs));
  }

  private trackIndex(trackId: string, content: CoursePlan['contents'][number]): number {
    return content.layers.find((layer) => layer.trackId === trackId)?.trackIndex ?? -1;
  }
}

function belongs(feed: CourseFeed, part: Less, layers: CoursePlan['contents'][number]['layers']): boolean {
  if (part.kind === 'item') return feed.itemId === part.itemId;
  return layers.some((layer) => layer.trackId === part.trackId && layer.trackIndex === feed.trackIndex);
}

/** Where each slot's uses begin when all slots' uses stand one after the other; one more entry than slots. */
export function offsetsOfUses(plan: Pick<CoursePlan, 'slotCount' | 'uses'>): Uint32Array {
  const offsets = new Uint32Array(plan.slotCount + 1);
  plan.uses.forEach((used, slot) => {
    offsets[slot + 1] = (offsets[slot] as number) + used.length;
  });
  return offsets;
}
