import { rational } from '@/core/time/rational';
import { flattenSlot, type Layer } from '@/core/timeline/flatten';
import { emptyTimeline, type Item, type Source } from '@/core/timeline/model';

/** What a slot shows of items on tracks of their own, one over another, each of the same clip in the timeline's raster. */
export function layersAt(
  { width, height }: { readonly width: number; readonly height: number },
  slot: number,
  ...items: readonly (Partial<Item> & { readonly source?: Source })[]
): readonly Layer[] {
  const media = {
    m: {
      clipId: 'c',
      name: 'm',
      reel: null,
      startTimecode: null,
      contentHash: null,
      rate: rational(24),
      frames: 500,
      width,
      height,
    },
  };
  const tracks = items.map((change, at) => ({
    id: `v${at}`,
    name: `V${at}`,
    on: true,
    items: [
      {
        id: `i${at}`,
        name: `i${at}`,
        start: 0,
        length: 100,
        source: { kind: 'clip' as const, media: 'm', in: 0, speed: rational(1) },
        effects: [],
        ...change,
      },
    ],
  }));
  return flattenSlot({ ...emptyTimeline('t', rational(24), width, height), media, tracks }, slot).layers;
}
