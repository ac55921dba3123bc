'use client';
import { useCallback, useMemo, useRef, useEffect } from 'react';
import {
  addMarker,
  addMedia,
  addTrack,
  crossFade,
  insertItem,
  moveItems,
  placeItem,
  removeItems,
  removeMarker,
  rippleDelete,
  splitAt,
  trimEnd,
  trimStart,
} from '@/core/timeline/edits';
import { slotsAvailable } from '@/core/timeline/flatten';
import {
  endOf,
  findItem,
  lengthOf,
  wholePicture,
  type Item,
  type MediaRef,
  type Source,
  type Timeline,
} from '@/core/timeline/model';
import { rational } from '@/core/time/rational';
import { useCommands } from '../keys/commands';
import type { EditorClip } from './ClipList';
import { newId } from './effects';
import type { Edit } from './useTimeline';

interface EditingParts {
  readonly timeline: Timeline;
  readonly edit: Edit;
  readonly selected: ReadonlySet<string>;
  readonly onSelect: (ids: ReadonlySet<string>) => void;
  readonly slot: number;
  readonly moveTo: (slot: number, slots?: number) => void;
  /** Index of the track that receives what is inserted. */
  readonly track: number;
  readonly onTrack: (index: number) => void;
}

const stillSeconds = 4;
const fadeSlots = 12;

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
    length: Number.isFinite(most)
      ? Math.max(1, most)
      : Math.round((stillSeconds * timeline.rate.num) / timeline.rate.den),
    source,
    effects: [],
  };
}

/** All edits of the editor, by function and by key. */
export function useEditing(parts: EditingParts) {
  const newest = useRef(parts);
  useEffect(() => {
    newest.current = parts;
  });
  const { edit } = parts;

  /** Puts clips in one after the other, over what is there, or making room. */
  const addClips = useCallback(
    (clips: readonly EditorClip[], trackIndex: number, slot: number, makeRoom = false) => {
      let next = newest.current.timeline;
      let at = slot;
      const added = new Set<string>();
      for (const { ref } of clips) {
        next = fittedTo(next, ref);
        const id = mediaId(next, ref);
        next = addMedia(next, id, ref);
        const item = itemOf(next, id, ref, at);
        const track = next.tracks[trackIndex] ?? next.tracks[0];
        if (!track) continue;
        next = makeRoom ? insertItem(next, track.id, item) : placeItem(next, track.id, item);
        added.add(item.id);
        at += item.length;
      }
      edit(() => next, clips.length === 1 ? `Insert ${clips[0]?.ref.name}` : `Insert ${clips.length} clips`);
      newest.current.onSelect(added);
      newest.current.moveTo(at, lengthOf(next));
    },
    [edit],
  );

  const addAtPlayhead = useCallback(
    (clips: readonly EditorClip[]) => addClips(clips, newest.current.track, newest.current.slot),
    [addClips],
  );

  const addAngles = useCallback(
    (clips: readonly EditorClip[]) => {
      const { timeline, track, slot, onSelect } = newest.current;
      const [first] = clips;
      if (!first) return;
      let next = fittedTo(timeline, first.ref);
      const angles = clips.map(({ ref }) => {
        const id = mediaId(next, ref);
        next = addMedia(next, id, ref);
        return { media: id, in: 0 };
      });
      const source: Source = { kind: 'angles', angles, switches: [{ at: 0, angle: 0 }] };
      const item: Item = {
        id: newId('i'),
        name: `${clips.length} angles`,
        start: slot,
        length: slotsAvailable(source, next),
        source,
        effects: [],
      };
      const target = next.tracks[track] ?? next.tracks[0];
      if (target) edit(() => placeItem(next, target.id, item), `Insert ${clips.length} angles`);
      onSelect(new Set([item.id]));
    },
    [edit],
  );

  const addTitle = useCallback(() => {
    const { timeline, slot, onSelect } = newest.current;
    const length = Math.round((stillSeconds * timeline.rate.num) / timeline.rate.den);
    const item: Item = {
      id: newId('i'),
      name: 'Title',
      start: slot,
      length,
      source: { kind: 'title' },
      effects: [{ id: newId('e'), on: true, kind: 'title', text: 'Tidewrack', size: 0.1, x: 0.5, y: 0.85 }],
    };
    // A title belongs above what it stands on: the topmost track where that is free, else one more.
    const top = timeline.tracks[timeline.tracks.length - 1];
    const free =
      timeline.tracks.length > 1 &&
      top &&
      top.items.every((other) => endOf(other) <= slot || other.start >= slot + length);
    const next = free ? timeline : addTrack(timeline, newId('v'), `V${timeline.tracks.length + 1}`);
    const target = next.tracks[next.tracks.length - 1];
    if (target) edit(() => placeItem(next, target.id, item), 'Insert a title');
    onSelect(new Set([item.id]));
  }, [edit]);

  const commands = useMemo(() => {
    const now = () => newest.current;
    /** What the keys work on: what is chosen, or what lies under the playhead on the active track. */
    const targets = (): ReadonlySet<string> => {
      const { selected, timeline, track, slot } = now();
      if (selected.size > 0) return selected;
      const under = timeline.tracks[track]?.items.find((item) => item.start <= slot && slot < endOf(item));
      return new Set(under ? [under.id] : []);
    };
    const one = (): Item | null => {
      const [id] = targets();
      return id === undefined ? null : (findItem(now().timeline, id)?.item ?? null);
    };
    const on =
      (what: string, change: (timeline: Timeline, ids: ReadonlySet<string>) => Timeline, merge?: string) =>
      () => {
        const ids = targets();
        if (ids.size > 0) edit((timeline) => change(timeline, ids), what, merge);
      };
    const step = (direction: 1 | -1) => {
      const { timeline, track, selected, onSelect, moveTo } = now();
      const items = timeline.tracks[track]?.items ?? [];
      const at = items.findIndex(({ id }) => selected.has(id));
      const next = at < 0 ? items.find((item) => endOf(item) > now().slot) : items[at + direction];
      if (!next) return;
      onSelect(new Set([next.id]));
      moveTo(next.start);
    };
    return [
      {
        id: 'split',
        label: 'Split at the playhead',
        group: 'Edit',
        key: 's',
        run: () => {
          const { timeline, selected, slot } = now();
          const ids = new Set(
            timeline.tracks
              .filter(({ items }) => selected.size === 0 || items.some(({ id }) => selected.has(id)))
              .map(({ id }) => id),
          );
          edit((document) => splitAt(document, slot, ids), 'Split');
        },
      },
      {
        id: 'delete',
        label: 'Remove and leave a gap',
        group: 'Edit',
        key: 'Delete',
        run: on('Remove', removeItems),
      },
      {
        id: 'ripple-delete',
        label: 'Remove and close up',
        group: 'Edit',
        key: 'Shift+Delete',
        run: on('Remove and close up', rippleDelete),
      },
      {
        id: 'trim-start',
        label: 'Trim the start to the playhead',
        group: 'Edit',
        key: '[',
        run: () => {
          const item = one();
          if (item)
            edit(
              (timeline) => trimStart(timeline, item.id, now().slot - item.start),
              `Trim the start of ${item.name}`,
            );
        },
      },
      {
        id: 'trim-end',
        label: 'Trim the end to the playhead',
        group: 'Edit',
        key: ']',
        run: () => {
          const item = one();
          if (item)
            edit(
              (timeline) => trimEnd(timeline, item.id, now().slot + 1 - endOf(item)),
              `Trim the end of ${item.name}`,
            );
        },
      },
      {
        id: 'nudge-on',
        label: 'Move one slot forward',
        group: 'Edit',
        key: '.',
        run: on('Move', (timeline, ids) => moveItems(timeline, ids, 1, 0), 'nudge'),
      },
      {
        id: 'nudge-back',
        label: 'Move one slot back',
        group: 'Edit',
        key: ',',
        run: on('Move', (timeline, ids) => moveItems(timeline, ids, -1, 0), 'nudge'),
      },
      {
        id: 'to-playhead',
        label: 'Move to the playhead',
        group: 'Edit',
        key: 'h',
        run: () => {
          const item = one();
          if (item)
            edit(
              (timeline) => moveItems(timeline, targets(), now().slot - item.start, 0),
              'Move to the playhead',
            );
        },
      },
      {
        id: 'track-up',
        label: 'Move one track up',
        group: 'Edit',
        key: 'Shift+ArrowUp',
        run: on('Move a track up', (timeline, ids) => moveItems(timeline, ids, 0, 1)),
      },
      {
        id: 'track-down',
        label: 'Move one track down',
        group: 'Edit',
        key: 'Shift+ArrowDown',
        run: on('Move a track down', (timeline, ids) => moveItems(timeline, ids, 0, -1)),
      },
      {
        id: 'fade',
        label: 'Cross-fade into the item, or back to a cut',
        group: 'Edit',
        key: 'x',
        run: () => {
          const item = one();
          const found = item && findItem(now().timeline, item.id);
          const before = found?.track.items[found.index - 1];
          if (item && before)
            edit(
              (timeline) => crossFade(timeline, item.id, endOf(before) > item.start ? 0 : fadeSlots),
              `Cross-fade into ${item.name}`,
            );
        },
      },
      { id: 'title', label: 'Insert a title', group: 'Edit', key: 'Shift+W', run: addTitle },
      {
        id: 'marker',
        label: 'Set or clear a marker',
        group: 'Edit',
        key: 'm',
        run: () => {
          const { timeline, slot } = now();
          const there = timeline.markers.find(({ at }) => at === slot);
          edit(
            (document) =>
              there
                ? removeMarker(document, there.id)
                : addMarker(document, {
                    id: newId('k'),
                    at: slot,
                    name: `Marker ${timeline.markers.length + 1}`,
                  }),
            there ? 'Clear a marker' : 'Set a marker',
          );
        },
      },
      { id: 'next-item', label: 'Choose the next item', group: 'Edit', key: 'n', run: () => step(1) },
      {
        id: 'previous-item',
        label: 'Choose the previous item',
        group: 'Edit',
        key: 'p',
        run: () => step(-1),
      },
      {
        id: 'choose-all',
        label: 'Choose all items',
        group: 'Edit',
        key: 'Ctrl+a',
        run: () =>
          now().onSelect(new Set(now().timeline.tracks.flatMap(({ items }) => items.map(({ id }) => id)))),
      },
      {
        id: 'choose-none',
        label: 'Choose nothing',
        group: 'Edit',
        key: 'Escape',
        run: () => now().onSelect(new Set()),
      },
      {
        id: 'active-up',
        label: 'Activate the track above',
        group: 'Edit',
        key: 'PageUp',
        run: () => now().onTrack(Math.min(now().timeline.tracks.length - 1, now().track + 1)),
      },
      {
        id: 'active-down',
        label: 'Activate the track below',
        group: 'Edit',
        key: 'PageDown',
        run: () => now().onTrack(Math.max(0, now().track - 1)),
      },
      {
        id: 'add-track',
        label: 'Add a track on top',
        group: 'Edit',
        key: 'Shift+A',
        run: () =>
          edit((timeline) => addTrack(timeline, newId('v'), `V${timeline.tracks.length + 1}`), 'Add a track'),
      },
    ];
  }, [edit, addTitle]);
  useCommands(commands);
  return { addClips, addAtPlayhead, addAngles, addTitle };
}
