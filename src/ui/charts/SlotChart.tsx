'use client';
import { quantity } from '@/core/format';
import { scaleLinear } from 'd3';
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
} from 'react';
import { slotState } from '@/core/playback/slots';
import type { TraceView } from '@/core/playback/traceView';
import { Button } from '../parts/Button';
import { useCommands } from '../keys/commands';
import { paintRibbon, ribbonInk, type RibbonData } from './paintRibbon';
import { allMs, paintRiver, riverInk, stageMs } from './paintRiver';
import { clampRange, findSlot, revealSlot, zoomRange, type SlotRange } from './slotAxis';
import { useCanvas } from './useCanvas';
import { useWheel } from './useWheel';

const ribbonHeight = 72;
const riverHeight = 150;

interface SlotChartProps {
  readonly data: RibbonData;
  /** With it the stage river is drawn below the ribbon. */
  readonly view?: TraceView;
  readonly slotMs: number;
  readonly timecodeAt: (slot: number) => string;
  readonly playhead: number;
  readonly onPlayhead: (slot: number) => void;
  /** Says a slot in words, for the reader under the chart. */
  readonly readout: (slot: number) => ReactNode;
  /** Drawn under the ribbon and the river on the same axis. */
  readonly below?: (range: SlotRange) => ReactNode;
}

type SlotAxis = ReturnType<typeof useSlotAxis>;

/** Which slots are seen, and the ways along them. */
function useSlotAxis({
  data,
  playhead,
  onPlayhead,
}: Pick<SlotChartProps, 'data' | 'playhead' | 'onPlayhead'>) {
  const { slots } = data;
  const [range, setRange] = useState<SlotRange>({ from: 0, to: Math.max(1, slots) });
  const shown = useMemo(
    () => clampRange(range.to > slots ? { from: 0, to: slots } : range, Math.max(1, slots)),
    [range, slots],
  );
  // Where the playhead is as soon as it moves: a key that repeats is faster than drawing.
  const at = useRef(playhead);
  useEffect(() => {
    at.current = playhead;
  }, [playhead]);
  const move = useCallback(
    (slot: number) => {
      const target = Math.min(Math.max(0, slot), slots - 1);
      at.current = target;
      onPlayhead(target);
      setRange((current) => revealSlot(current, target, slots));
    },
    [onPlayhead, slots],
  );
  const step = useCallback((by: number) => move(at.current + by), [move]);
  const isDrop = useCallback(
    (slot: number) => data.state[slot] === slotState.dropped || data.state[slot] === slotState.wrong,
    [data],
  );
  const toDrop = useCallback(
    (direction: 1 | -1) => {
      const next = findSlot(at.current, direction, slots, isDrop);
      if (next !== null) move(next);
    },
    [slots, isDrop, move],
  );
  const zoom = useCallback(
    (factor: number) => setRange((current) => zoomRange(current, factor, at.current, slots)),
    [slots],
  );
  const showAll = useCallback(() => setRange({ from: 0, to: slots }), [slots]);
  const toLast = useCallback(() => move(slots - 1), [move, slots]);
  return { shown, setRange, move, step, toLast, toDrop, zoom, showAll };
}

/** Keys from drop to drop, slot by slot, closer and further. */
function useRibbonKeys({ move, step, toLast, toDrop, zoom, showAll }: SlotAxis): void {
  useCommands(
    useMemo(
      () =>
        (
          [
            ['next-drop', 'Next drop', 'n', () => toDrop(1)],
            ['previous-drop', 'Previous drop', 'p', () => toDrop(-1)],
            ['step-forward', 'One slot forward', 'ArrowRight', () => step(1)],
            ['step-back', 'One slot back', 'ArrowLeft', () => step(-1)],
            ['first-slot', 'First slot', 'Home', () => move(0)],
            ['last-slot', 'Last slot', 'End', toLast],
            ['zoom-in', 'Zoom in', '+', () => zoom(2)],
            ['zoom-out', 'Zoom out', '-', () => zoom(0.5)],
            ['zoom-all', 'Show all slots', '0', showAll],
          ] as const
        ).map(([id, label, key, run]) => ({ id, label, group: 'Ribbon', key, run })),
      [move, step, toLast, toDrop, zoom, showAll],
    ),
  );
}

/** The same by pointer. */
function RibbonTools({ toDrop, zoom, showAll }: SlotAxis) {
  return (
    <div data-no-print className="mb-1 flex flex-wrap items-center gap-1">
      <Button look="quiet" className="h-7" onClick={() => toDrop(-1)}>
        Previous drop
      </Button>
      <Button look="quiet" className="h-7" onClick={() => toDrop(1)}>
        Next drop
      </Button>
      <Button look="quiet" className="ml-auto h-7" aria-label="Zoom out" onClick={() => zoom(0.5)}>
        −
      </Button>
      <Button look="quiet" className="h-7" aria-label="Zoom in" onClick={() => zoom(2)}>
        +
      </Button>
      <Button look="quiet" className="h-7" onClick={showAll}>
        All
      </Button>
    </div>
  );
}

/** The ribbon, and under it the stage river, on one axis of slots: zoom, pan, hover, and keys from drop to drop. */
export function SlotChart({
  data,
  view,
  slotMs,
  timecodeAt,
  playhead,
  onPlayhead,
  readout,
  below,
}: SlotChartProps) {
  const { slots } = data;
  const [hovered, setHovered] = useState<number | null>(null);
  const axis = useSlotAxis({ data, playhead, onPlayhead });
  const { shown } = axis;
  useRibbonKeys(axis);
  const gestures = useGestures(shown, slots, axis.setRange, setHovered, axis.move);
  const read = hovered ?? playhead;
  return (
    <div>
      <RibbonTools {...axis} />
      <div
        {...gestures}
        tabIndex={0}
        role="slider"
        aria-label="Ribbon of slots"
        aria-valuemin={0}
        aria-valuemax={Math.max(0, slots - 1)}
        aria-valuenow={playhead}
        aria-valuetext={timecodeAt(playhead)}
        className="relative select-none overflow-hidden border bg-surface"
        style={{ touchAction: 'none' }}
      >
        <Ribbon data={data} range={shown} />
        {view && <River view={view} range={shown} slotMs={slotMs} />}
        {below?.(shown)}
        <Marker slot={playhead} range={shown} strong />
        {hovered !== null && hovered !== playhead && <Marker slot={hovered} range={shown} />}
      </div>
      <Axis range={shown} timecodeAt={timecodeAt} />
      <div aria-live="polite" className="mt-1 min-h-12 text-sm" data-testid="readout">
        {slots > 0 && readout(Math.min(read, slots - 1))}
      </div>
    </div>
  );
}

/** Wheel zooms round the pointer, dragging pans, a click puts the playhead down. */
function useGestures(
  range: SlotRange,
  slots: number,
  setRange: (range: SlotRange) => void,
  setHovered: (slot: number | null) => void,
  move: (slot: number) => void,
) {
  const drag = useRef<{ x: number; range: SlotRange; moved: boolean } | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const slotAt = (clientX: number, element: Element) => {
    const { left, width } = element.getBoundingClientRect();
    return range.from + ((clientX - left) / width) * (range.to - range.from);
  };
  useWheel(box, (event, element) => {
    const span = range.to - range.from;
    if (Math.abs(event.deltaX) > Math.abs(event.deltaY))
      setRange(
        clampRange(
          {
            from: range.from + (event.deltaX / element.clientWidth) * span,
            to: range.to + (event.deltaX / element.clientWidth) * span,
          },
          slots,
        ),
      );
    else setRange(zoomRange(range, Math.exp(-event.deltaY / 300), slotAt(event.clientX, element), slots));
  });
  return {
    ref: box,
    onPointerDown: (event: PointerEvent<HTMLDivElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { x: event.clientX, range, moved: false };
    },
    onPointerMove: (event: PointerEvent<HTMLDivElement>) => {
      const current = drag.current;
      if (!current) {
        setHovered(Math.min(slots - 1, Math.max(0, Math.floor(slotAt(event.clientX, event.currentTarget)))));
        return;
      }
      const shift =
        ((current.x - event.clientX) / event.currentTarget.clientWidth) *
        (current.range.to - current.range.from);
      if (Math.abs(current.x - event.clientX) > 3) current.moved = true;
      if (current.moved)
        setRange(clampRange({ from: current.range.from + shift, to: current.range.to + shift }, slots));
    },
    onPointerUp: (event: PointerEvent<HTMLDivElement>) => {
      if (drag.current && !drag.current.moved) move(Math.floor(slotAt(event.clientX, event.currentTarget)));
      drag.current = null;
    },
    onPointerLeave: () => setHovered(null),
    onKeyDown: (event: KeyboardEvent<HTMLDivElement>) => {
      if (event.key === ' ') event.preventDefault();
    },
  };
}

export function Ribbon({ data, range }: { data: RibbonData; range: SlotRange }) {
  const paint = useCallback(
    (pen: CanvasRenderingContext2D, width: number, scale: number) => {
      paintRibbon(pen, data, range, width, ribbonHeight, ribbonInk(pen, scale));
    },
    [data, range],
  );
  const { ref } = useCanvas(ribbonHeight, paint);
  return <canvas ref={ref} className="block w-full" style={{ height: ribbonHeight }} />;
}

/** The river's height in ms: the slot's length and half of it again, or more where the slowest slots need it, up to three. */
function riverTopMs(view: TraceView, slotMs: number): number {
  let most = 0;
  for (let slot = 0; slot < view.slots; slot++) {
    const total = allMs(view, slot) - stageMs(view, 'errorMs', slot);
    if (total > most) most = total;
  }
  return Math.min(slotMs * 3, Math.max(slotMs * 1.5, most * 1.1));
}

function River({ view, range, slotMs }: { view: TraceView; range: SlotRange; slotMs: number }) {
  const topMs = useMemo(() => riverTopMs(view, slotMs), [view, slotMs]);
  const paint = useCallback(
    (pen: CanvasRenderingContext2D, width: number) => {
      paintRiver(pen, view, range, width, riverHeight, topMs, riverInk());
    },
    [view, range, topMs],
  );
  const { ref } = useCanvas(riverHeight, paint);
  const y = scaleLinear([0, topMs], [riverHeight, 0])(slotMs);
  return (
    <div className="relative border-t">
      <canvas ref={ref} className="block w-full" style={{ height: riverHeight }} />
      <div
        aria-hidden
        className="pointer-events-none absolute inset-x-0 border-t border-dashed border-ink"
        style={{ top: y }}
      >
        <span className="figure absolute right-1 -translate-y-full bg-surface/80 px-1 text-xs">
          one slot: {quantity(slotMs, 'ms', 1)}
        </span>
      </div>
    </div>
  );
}

function Marker({ slot, range, strong = false }: { slot: number; range: SlotRange; strong?: boolean }) {
  const span = range.to - range.from;
  if (slot + 1 < range.from || slot > range.to) return null;
  return (
    <div
      aria-hidden
      className={
        strong
          ? 'pointer-events-none absolute inset-y-0 border-x-2 border-signal-text'
          : 'pointer-events-none absolute inset-y-0 border-x border-edge'
      }
      style={{ left: `${((slot - range.from) / span) * 100}%`, width: `max(3px, ${100 / span}%)` }}
    />
  );
}

export function Axis({ range, timecodeAt }: { range: SlotRange; timecodeAt: (slot: number) => string }) {
  const ticks = scaleLinear([range.from, range.to], [0, 100])
    .ticks(6)
    .filter(
      (tick) =>
        Number.isInteger(tick) && tick >= range.from && tick < range.to - (range.to - range.from) * 0.1,
    );
  return (
    <div aria-hidden className="relative h-5 text-xs text-muted">
      {ticks.map((tick) => (
        <span
          key={tick}
          className="figure absolute border-l border-edge pl-1"
          style={{ left: `${((tick - range.from) / (range.to - range.from)) * 100}%` }}
        >
          {timecodeAt(tick)}
        </span>
      ))}
    </div>
  );
}
