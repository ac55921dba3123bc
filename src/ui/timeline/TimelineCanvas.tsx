'use client';
import {
  useCallback,
  useEffect,
  useRef,
  useState,
  type DragEvent,
  type PointerEvent,
  type RefObject,
} from 'react';
import { moveItems, snapPoints, snapShift, trimEnd, trimStart } from '@/core/timeline/edits';
import { endOf, lastStartedBy, type Item, type MediaRef, type Timeline } from '@/core/timeline/model';
import { clampRange, zoomRange, type SlotRange } from '../charts/slotAxis';
import { useCanvas } from '../charts/useCanvas';
import { useWheel } from '../charts/useWheel';
import { layout, paintTimeline, timelineHeight, timelineInk, trackAt, type Painted } from './paintTimeline';
import type { Edit } from './useTimeline';

/** What is dragged from the clip list, as JSON of its `MediaRef`. */
export const clipDragType = 'application/x-navvy-clip';

interface TimelineCanvasProps extends Omit<Painted, 'range'> {
  readonly range: SlotRange;
  readonly onRange: (range: SlotRange) => void;
  readonly room: number;
  readonly playhead: number;
  readonly snapping: boolean;
  readonly onSelect: (ids: ReadonlySet<string>) => void;
  readonly onPlayhead: (slot: number) => void;
  readonly onTrack: (index: number) => void;
  readonly edit: Edit;
  readonly onDropClip: (clip: MediaRef, track: number, slot: number) => void;
}

type Drag =
  | { readonly kind: 'playhead' }
  | {
      readonly kind: 'move' | 'trim-start' | 'trim-end';
      readonly item: Item;
      readonly before: Timeline;
      readonly from: number;
      readonly track: number;
      readonly ids: ReadonlySet<string>;
      readonly key: string;
    };

const edgePixels = 6;
const snapPixels = 8;

/** The tracks and their items: drag to move and trim, drag in the ruler to scrub, drop clips in. */
export function TimelineCanvas(props: TimelineCanvasProps) {
  const { timeline, range, selected, marks, timecodeAt, playhead, onRange, room } = props;
  const height = timelineHeight(timeline.tracks.length);
  const paint = useCallback(
    (pen: CanvasRenderingContext2D, width: number) => {
      paintTimeline(pen, { timeline, range, selected, marks, timecodeAt }, width, timelineInk(pen));
    },
    [timeline, range, selected, marks, timecodeAt],
  );
  const { ref } = useCanvas(height, paint);
  const box = useRef<HTMLDivElement>(null);
  const { handlers, drop, cursor } = useDrags(props, box);
  useWheel(box, (event, element) => {
    const span = range.to - range.from;
    if (event.ctrlKey || event.metaKey) {
      const { left, width } = element.getBoundingClientRect();
      onRange(
        zoomRange(
          range,
          Math.exp(-event.deltaY / 300),
          range.from + ((event.clientX - left) / width) * span,
          room,
        ),
      );
    } else {
      const by =
        ((Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX : event.deltaY) /
          element.clientWidth) *
        span;
      onRange(clampRange({ from: range.from + by, to: range.to + by }, room));
    }
  });
  const at = ((playhead - range.from) / (range.to - range.from)) * 100;
  const slotShare = 100 / (range.to - range.from);
  return (
    <div
      ref={box}
      {...handlers}
      role="application"
      aria-label={`Timeline with ${timeline.tracks.length} tracks; keys edit it, see the list of keys`}
      tabIndex={0}
      className="relative select-none overflow-hidden border bg-ground"
      style={{ touchAction: 'none', cursor }}
    >
      <canvas ref={ref} className="block w-full" style={{ height }} />
      {at + slotShare >= 0 && at <= 100 && (
        <div
          aria-hidden
          className="pointer-events-none absolute inset-y-0 border-l-2 border-signal-text bg-signal-text/15"
          style={{ left: `${at}%`, width: `max(2px, ${slotShare}%)` }}
        />
      )}
      {drop !== null && (
        <div
          aria-hidden
          className="pointer-events-none absolute inset-y-0 border-l-2 border-dashed border-ink"
          style={{ left: drop }}
        />
      )}
    </div>
  );
}

function itemUnder(timeline: Timeline, trackIndex: number | null, slot: number): Item | null {
  const items = trackIndex === null ? [] : (timeline.tracks[trackIndex]?.items ?? []);
  const item = items[lastStartedBy(items, slot)];
  return item && slot < endOf(item) ? item : null;
}

/** What is meant by taking hold of an item at a slot. */
function edgeOf(item: Item, slot: number, perSlot: number): 'move' | 'trim-start' | 'trim-end' {
  const reach = Math.min(edgePixels, ((endOf(item) - item.start) * perSlot) / 4);
  if ((slot - item.start) * perSlot < reach) return 'trim-start';
  return (endOf(item) - slot) * perSlot < reach ? 'trim-end' : 'move';
}

function cursorOver(item: Item | null, slot: number, perSlot: number): string {
  if (!item) return 'default';
  return edgeOf(item, slot, perSlot) === 'move' ? 'grab' : 'ew-resize';
}

/** Tells where a pointer is, by the newest range and tracks. */
function usePlace(newest: RefObject<TimelineCanvasProps>, box: RefObject<HTMLDivElement | null>) {
  return useCallback(
    (event: { clientX: number; clientY: number }) => {
      const { left, top, width } = box.current?.getBoundingClientRect() ?? { left: 0, top: 0, width: 1 };
      const { range, timeline } = newest.current;
      const perSlot = width / (range.to - range.from);
      return {
        slot: range.from + (event.clientX - left) / perSlot,
        y: event.clientY - top,
        x: event.clientX - left,
        perSlot,
        track: trackAt(event.clientY - top, timeline.tracks.length),
      };
    },
    [newest, box],
  );
}

/** Clips that are dropped on the timeline, and where one that hovers would come to lie. */
function useClipDrops(newest: RefObject<TimelineCanvasProps>, place: ReturnType<typeof usePlace>) {
  const [drop, setDrop] = useState<number | null>(null);
  const onDragOver = (event: DragEvent<HTMLDivElement>) => {
    if (!event.dataTransfer.types.includes(clipDragType)) return;
    event.preventDefault();
    setDrop(place(event).x);
  };
  const onDrop = (event: DragEvent<HTMLDivElement>) => {
    const dragged = event.dataTransfer.getData(clipDragType);
    setDrop(null);
    if (!dragged) return;
    event.preventDefault();
    const { timeline, snapping, onDropClip, playhead } = newest.current;
    const { slot, track, perSlot } = place(event);
    const at = Math.max(0, Math.round(slot));
    const snapped = snapping
      ? at + snapShift(snapPoints(timeline, new Set(), [playhead]), [at], snapPixels / perSlot)
      : at;
    onDropClip(
      JSON.parse(dragged) as MediaRef,
      track ?? timeline.tracks.length - 1,
      Math.max(0, Math.round(snapped)),
    );
  };
  return { drop, onDragOver, onDragLeave: () => setDrop(null), onDrop };
}

/** Items that are moved and trimmed, the playhead that is drawn along, clips that are dropped. */
function useDrags(props: TimelineCanvasProps, box: RefObject<HTMLDivElement | null>) {
  const drag = useRef<Drag | null>(null);
  const counter = useRef(0);
  const [cursor, setCursor] = useState('default');
  const newest = useRef(props);
  useEffect(() => {
    newest.current = props;
  });
  const place = usePlace(newest, box);
  const { drop, ...drops } = useClipDrops(newest, place);
  const begin = (event: PointerEvent<HTMLDivElement>) => {
    const { timeline, selected, onSelect, onPlayhead, onTrack } = newest.current;
    const { slot, y, track, perSlot } = place(event);
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    if (track !== null) onTrack(track);
    if (y < layout.ruler) {
      drag.current = { kind: 'playhead' };
      onPlayhead(Math.max(0, Math.floor(slot)));
      return;
    }
    const item = itemUnder(timeline, track, slot);
    if (!item || track === null) {
      if (!event.shiftKey) onSelect(new Set());
      onPlayhead(Math.max(0, Math.floor(slot)));
      drag.current = { kind: 'playhead' };
      return;
    }
    const ids = selected.has(item.id)
      ? selected
      : event.shiftKey
        ? new Set([...selected, item.id])
        : new Set([item.id]);
    onSelect(ids);
    drag.current = {
      kind: edgeOf(item, slot, perSlot),
      item,
      before: timeline,
      from: slot,
      track,
      ids,
      key: `drag-${++counter.current}`,
    };
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    const { timeline, onPlayhead } = newest.current;
    const { slot, y, track, perSlot } = place(event);
    const current = drag.current;
    if (!current) {
      const item = y < layout.ruler ? null : itemUnder(timeline, track, slot);
      setCursor(y < layout.ruler ? 'col-resize' : cursorOver(item, slot, perSlot));
      return;
    }
    if (current.kind === 'playhead') {
      onPlayhead(Math.max(0, Math.floor(slot)));
      return;
    }
    applyDrag(current, slot, track, perSlot, newest.current);
  };
  const end = () => {
    drag.current = null;
  };
  return {
    drop,
    cursor,
    handlers: {
      onPointerDown: begin,
      onPointerMove: move,
      onPointerUp: end,
      onPointerCancel: end,
      ...drops,
    },
  };
}

function applyDrag(
  drag: Extract<Drag, { item: Item }>,
  slot: number,
  track: number | null,
  perSlot: number,
  { timeline, snapping, playhead, edit }: TimelineCanvasProps,
): void {
  let by = Math.round(slot - drag.from);
  const { item, ids, before } = drag;
  if (snapping) {
    const moving = before.tracks.flatMap(({ items }) => items.filter(({ id }) => ids.has(id)));
    const edges =
      drag.kind === 'move'
        ? moving.flatMap((one) => [one.start + by, endOf(one) + by])
        : [drag.kind === 'trim-start' ? item.start + by : endOf(item) + by];
    by += Math.round(snapShift(snapPoints(before, ids, [playhead]), edges, snapPixels / perSlot));
  }
  if (drag.kind === 'trim-start') {
    edit(() => trimStart(before, item.id, by), `Trim the start of ${item.name}`, drag.key);
    return;
  }
  if (drag.kind === 'trim-end') {
    edit(() => trimEnd(before, item.id, by), `Trim the end of ${item.name}`, drag.key);
    return;
  }
  const tracks = (track ?? drag.track) - drag.track;
  const moved = moveItems(before, ids, by, tracks);
  // What would leave the timeline stays at its last possible place.
  if (moved === before && (by !== 0 || tracks !== 0)) return;
  if (moved !== timeline)
    edit(() => moved, ids.size > 1 ? `Move ${ids.size} items` : `Move ${item.name}`, drag.key);
}
