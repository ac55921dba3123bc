import { courseSlot, prerenderedItem, prerenderedTrack, type Course } from './flatten';
import { endOf, lastStartedBy, type Item, type Timeline, type Track } from './model';

/**
 * A run laid out as a timeline of its own slots: what stands under a run's ribbon. Where a run
 * turns back or goes round, items appear again.
 */
export function courseStrip(timeline: Timeline, course: Course): Timeline {
  return {
    ...timeline,
    markers: [],
    media: { ...timeline.media, ...prerenderedMedia(timeline, course) },
    tracks: [...timeline.tracks, ...prerenderedTracks(course)].map((track) => {
      const items: Item[] = [];
      let open: { item: Item; from: number } | null = null;
      const close = (until: number) => {
        if (open)
          items.push({
            ...open.item,
            id: `${open.item.id}@${open.from}`,
            start: open.from,
            length: until - open.from,
          });
        open = null;
      };
      for (let slot = 0; slot < course.slots; slot++) {
        const at = courseSlot(course, slot);
        const item = track.items[lastStartedBy(track.items, at)];
        const shown = item && at < endOf(item) ? item : null;
        if (open !== null && (open as { item: Item }).item !== shown) close(slot);
        if (shown && open === null) open = { item: shown, from: slot };
      }
      close(course.slots);
      return { ...track, items };
    }),
  };
}

/** The track of what was rendered before, above all others; none where a run uses none. */
function prerenderedTracks({ prerendered = [] }: Course): Track[] {
  return prerendered.length === 0
    ? []
    : [{ id: prerenderedTrack, name: 'Pre-rendered', on: true, items: prerendered.map(prerenderedItem) }];
}

/** Rendered parts as media, so that they are not taken for missing ones. */
function prerenderedMedia(
  { rate, width, height }: Timeline,
  { prerendered = [] }: Course,
): Timeline['media'] {
  return Object.fromEntries(
    prerendered.map(({ media, to, origin }) => [
      media,
      {
        clipId: media,
        name: 'Pre-rendered',
        reel: null,
        startTimecode: null,
        contentHash: null,
        rate,
        frames: to - origin,
        width,
        height,
      },
    ]),
  );
}
