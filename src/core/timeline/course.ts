import { frameIndex, type FrameIndex } from '../media/frameIndex';
import type { PacketTable } from '../media/packetTable';
import { graphFromOrder, type FrameGraph } from '../playback/work';
import { planFeed, type FeedPlan } from './decodePlan';
import { courseSlot, flattenSlot, type Course, type SlotContent } from './flatten';
import type { Timeline } from './model';

/** One decoder's part in a run: the stretch of an item (or of one angle of it) that is played. */
export interface Feed {
  readonly itemId: string;
  readonly trackIndex: number;
  readonly media: string;
  /** Slot of the run at which it is first used, and after which it is last. */
  readonly first: number;
  readonly last: number;
  readonly plan: FeedPlan;
}

/** A slot's use of a feed. `layer` is the layer it is for; -1 for an angle that is decoded without being seen. */
export interface FeedUse { readonly feed: number; readonly step: number; readonly layer: number }

/** A run over a timeline, worked out to packets. */
export interface CoursePlan {
  readonly slotCount: number;
  readonly contents: readonly SlotContent[];
  readonly feeds: readonly Feed[];
  readonly uses: readonly (readonly FeedUse[])[];
  /** Bytes read per slot of the run. */
  readonly bytes: Float64Array;
  /** How slots hang together: a slot is one unit of reading and decoding, in the run's order. */
  readonly graph: FrameGraph;
}

interface Growing { itemId: string; trackIndex: number; media: string; first: number; last: number; frames: number[] }

/**
 * Works out what a run over a timeline reads and decodes in each of its slots.
 * @param tables packet tables by media id; media without one are left out
 * @param mostKept frames of one clip that may be kept for going backwards
 */
export function planCourse(timeline: Timeline, course: Course, tables: ReadonlyMap<string, PacketTable>, mostKept = 48): CoursePlan {
  const indexes = new Map<string, FrameIndex>();
  const growing: Growing[] = [];
  const open = new Map<string, number>();
  const contents: SlotContent[] = [];
  const uses: FeedUse[][] = [];
  for (let slot = 0; slot < course.slots; slot++) {
    const content = flattenSlot(timeline, courseSlot(course, slot));
    const used: FeedUse[] = [];
    const use = (key: string, itemId: string, trackIndex: number, media: string, frame: number, layer: number) => {
      if (!tables.has(media)) return;
      let feed = open.get(key);
      if (feed === undefined) {
        feed = growing.length;
        growing.push({ itemId, trackIndex, media, first: slot, last: slot, frames: [] });
        open.set(key, feed);
      }
      const grown = growing[feed] as Growing;
      used.push({ feed, step: grown.frames.length, layer });
      grown.frames.push(frame);
      grown.last = slot;
    };
    content.layers.forEach((layer, at) => { if (layer.media !== null) use(`${layer.item.id}:${layer.media}:${layer.angle}`, layer.item.id, layer.trackIndex, layer.media, layer.frame, at); });
    content.alongside.forEach(({ item, media, angle, frame }) => {
      const trackIndex = content.layers.find((layer) => layer.item.id === item.id)?.trackIndex ?? 0;
      use(`${item.id}:${media}:${angle}`, item.id, trackIndex, media, frame, -1);
    });
    contents.push(content);
    uses.push(used);
  }
  const feeds = growing.map(({ frames, ...feed }): Feed => {
    const table = tables.get(feed.media) as PacketTable;
    const index = indexes.get(feed.media) ?? frameIndex(table);
    indexes.set(feed.media, index);
    return { ...feed, plan: planFeed(index, Int32Array.from(frames), mostKept) };
  });
  return { slotCount: course.slots, contents, feeds, uses, bytes: bytesOf(feeds, uses, tables), graph: graphOf(feeds, uses) };
}

function bytesOf(feeds: readonly Feed[], uses: readonly (readonly FeedUse[])[], tables: ReadonlyMap<string, PacketTable>): Float64Array {
  return Float64Array.from(uses, (used) => used.reduce((sum, { feed, step }) => {
    const { plan, media } = feeds[feed] as Feed;
    const { size } = tables.get(media) as PacketTable;
    for (let at = plan.from[step] as number; at < (plan.from[step + 1] as number); at++) sum += size[plan.rows[at] as number] ?? 0;
    return sum;
  }, 0));
}

/**
 * A run may jump to a slot that needs nothing decoded before it on any feed; it may give up a
 * slot alone where its packets serve only itself on every feed.
 */
function graphOf(feeds: readonly Feed[], uses: readonly (readonly FeedUse[])[]): FrameGraph {
  const count = uses.length;
  const key = Uint8Array.from(uses, (used, slot) => (slot === 0 || used.every(({ feed, step }) => (feeds[feed] as Feed).plan.fresh[step] === 1) ? 1 : 0));
  const disposable = Uint8Array.from(uses, (used) => (used.every(({ feed, step }) => (feeds[feed] as Feed).plan.alone[step] === 1) ? 1 : 0));
  return graphFromOrder(Uint32Array.from({ length: count }, (_, slot) => slot), key, disposable, 0);
}
