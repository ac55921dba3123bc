import { frameIndex, type FrameIndex } from '../media/frameIndex';
import type { PacketTable } from '../media/packetTable';
import { planFeed } from '../playback/feedPlan';
import { graphOf, type Feed, type FrameGraph } from '../playback/work';
import { courseContents, courseSlot, type Course, type SlotContent } from './flatten';
import type { Item, Timeline } from './model';

/** One decoder's part in a run over a timeline: the stretch of an item (or of one angle of it) that is played. */
export interface CourseFeed extends Feed {
  /** Of the item, its medium and angle: the same whenever they are played. */
  readonly key: string;
  readonly itemId: string;
  readonly itemName: string;
  readonly trackIndex: number;
  readonly media: string;
  /** Slot of the run at which it is first used, and after which it is last. */
  readonly first: number;
  readonly last: number;
}

/** A slot's use of a feed. `layer` is the layer it is for; -1 for an angle that is decoded without being seen. */
export interface FeedUse {
  readonly feed: number;
  readonly step: number;
  readonly layer: number;
}

/** A run over a timeline, worked out to packets. */
export interface CoursePlan {
  readonly slotCount: number;
  readonly contents: readonly SlotContent[];
  readonly feeds: readonly CourseFeed[];
  readonly uses: readonly (readonly FeedUse[])[];
  /** How the run's slots hang together, in the run's order. */
  readonly graph: FrameGraph;
}

interface Growing {
  key: string;
  itemId: string;
  itemName: string;
  trackIndex: number;
  media: string;
  first: number;
  last: number;
  frames: number[];
}

/**
 * Works out what a run over a timeline reads and decodes in each of its slots.
 * @param tables packet tables by media id; media without one are left out
 * @param mostKept frames of one clip that may be kept for going backwards
 */
export function planCourse(
  timeline: Timeline,
  course: Course,
  tables: ReadonlyMap<string, PacketTable>,
  mostKept = 48,
): CoursePlan {
  const indexes = new Map<string, FrameIndex>();
  const growing: Growing[] = [];
  const open = new Map<string, number>();
  const contents: SlotContent[] = [];
  const contentAt = courseContents(timeline, course);
  const uses: FeedUse[][] = [];
  for (let slot = 0; slot < course.slots; slot++) {
    const content = contentAt(courseSlot(course, slot));
    const used: FeedUse[] = [];
    const use = (
      key: string,
      item: Pick<Item, 'id' | 'name'>,
      trackIndex: number,
      media: string,
      frame: number,
      layer: number,
    ) => {
      if (!tables.has(media)) return;
      let feed = open.get(key);
      if (feed === undefined) {
        feed = growing.length;
        growing.push({
          key,
          itemId: item.id,
          itemName: item.name,
          trackIndex,
          media,
          first: slot,
          last: slot,
          frames: [],
        });
        open.set(key, feed);
      }
      const grown = growing[feed] as Growing;
      used.push({ feed, step: grown.frames.length, layer });
      grown.frames.push(frame);
      grown.last = slot;
    };
    content.layers.forEach((layer, at) => {
      if (layer.media !== null)
        use(
          streamKey(layer.item, layer.media, layer.angle),
          layer.item,
          layer.trackIndex,
          layer.media,
          layer.frame,
          at,
        );
    });
    content.alongside.forEach(({ item, media, angle, frame }) => {
      const trackIndex = content.layers.find((layer) => layer.item.id === item.id)?.trackIndex ?? 0;
      use(streamKey(item, media, angle), item, trackIndex, media, frame, -1);
    });
    contents.push(content);
    uses.push(used);
  }
  const feeds = growing.map(({ frames, ...feed }): CourseFeed => {
    const index = indexes.get(feed.media) ?? frameIndex(tables.get(feed.media) as PacketTable);
    indexes.set(feed.media, index);
    const { width, height } = timeline.media[feed.media] ?? { width: 1, height: 1 };
    return { ...feed, plan: planFeed(index, Int32Array.from(frames), mostKept), weight: width * height };
  });
  return { slotCount: course.slots, contents, feeds, uses, graph: graphOf(feeds, uses, slotKinds(contents)) };
}

/** Names what one decoder is fed: an item's medium and angle. */
export const streamKey = ({ id }: Pick<Item, 'id'>, media: string, angle: number): string =>
  `${id}:${media}:${angle}`;

/** Which items a slot shows, as a key. */
export function combinationOf(content: SlotContent): string {
  return content.layers.map(({ item }) => item.id).join('|');
}

/** Numbers slots that show the same items alike. */
function slotKinds(contents: readonly SlotContent[]): Uint32Array {
  const numbers = new Map<string, number>();
  return Uint32Array.from(contents, (content) => {
    const combination = combinationOf(content);
    const number = numbers.get(combination) ?? numbers.size;
    numbers.set(combination, number);
    return number;
  });
}
