'use client';
import { count, megabits, megabitsPerSecond, quantity } from '@/core/format';
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
} from 'react';
import { clipTimecode } from '@/core/time/clipTimecode';
import { toNumber, type Rational } from '@/core/time/rational';
import { callApi } from '../api';
import { paintFrames, paintRates, secondRates, type FrameColumns } from '../charts/paintFrames';
import { clampRange, findSlot, revealSlot, zoomRange, type SlotRange } from '../charts/slotAxis';
import { useCanvas } from '../charts/useCanvas';
import { greatest } from '@/core/stats/extremes';

const sizes = { top: 16, height: 150 } as const;
const rateBand = { top: 192, height: 84 } as const;
const height = 284;

interface FrameChartProps {
  readonly clipId: string;
  readonly rate: Rational;
  readonly startTimecode: string | null;
}

/** Size of every frame by type, and the rate of every second, over the clip. */
export function FrameChart(props: FrameChartProps) {
  const [frames, setFrames] = useState<FrameColumns | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    callApi('GET /api/clips/{id}/frames', { ids: { id: props.clipId } }).then(
      (found) => {
        if (!gone) setFrames(found);
      },
      (error: unknown) => {
        if (!gone) setProblem(error instanceof Error ? error.message : String(error));
      },
    );
    return () => {
      gone = true;
    };
  }, [props.clipId]);
  if (problem) return <p className="text-sm text-muted">{problem}</p>;
  return frames ? (
    <LoadedChart frames={frames} {...props} />
  ) : (
    <div className="h-72 border bg-surface" aria-busy="true" />
  );
}

interface ChartWays {
  readonly move: (to: number) => void;
  readonly zoom: (factor: number) => void;
  readonly showAll: () => void;
  readonly cursor: number;
  readonly total: number;
  /** In frames. */
  readonly second: number;
  readonly nextKey: (direction: 1 | -1) => number | null;
}

/** The chart by keyboard. */
const keysOf =
  ({ move, zoom, showAll, cursor, total, second, nextKey }: ChartWays) =>
  (event: KeyboardEvent) => {
    const acts: Record<string, () => void> = {
      ArrowLeft: () => move(event.shiftKey ? (nextKey(-1) ?? 0) : cursor - 1),
      ArrowRight: () => move(event.shiftKey ? (nextKey(1) ?? total - 1) : cursor + 1),
      PageUp: () => move(cursor - second),
      PageDown: () => move(cursor + second),
      Home: () => move(0),
      End: () => move(total - 1),
      '+': () => zoom(1.6),
      '=': () => zoom(1.6),
      '-': () => zoom(1 / 1.6),
      '0': showAll,
    };
    const act = acts[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  };

/** What the chart's two bands reach up to. */
function Tops({ bytes, megabits: most }: { bytes: number; megabits: number }) {
  return (
    <>
      <span className="pointer-events-none absolute right-2 top-0.5 text-xs text-muted">
        kB per frame, up to {count(Math.ceil(bytes / 1000))}
      </span>
      <span className="pointer-events-none absolute right-2 top-[172px] text-xs text-muted">
        Mb/s of each second, up to {megabits(most * 1e6)}
      </span>
    </>
  );
}

/** Draws sizes above, rates below, and where the cursor stands. */
function usePaint({
  frames,
  rates,
  most,
  offset,
  range,
  cursor,
}: {
  frames: FrameColumns;
  rates: ReturnType<typeof secondRates>;
  most: { readonly bytes: number; readonly rate: number };
  /** Frames before the first whole second. */
  offset: number;
  range: SlotRange;
  cursor: number;
}) {
  return useCallback(
    (pen: CanvasRenderingContext2D, width: number) => {
      const style = getComputedStyle(pen.canvas);
      pen.clearRect(0, 0, width, height);
      pen.font = '12px var(--font-mono), monospace';
      paintFrames(pen, width, sizes, frames, range, most.bytes, style);
      paintRates(pen, width, rateBand, rates, offset, range, most.rate, style);
      pen.fillStyle = style.getPropertyValue('--signal-text');
      pen.fillRect((cursor + 0.5 - range.from) * (width / (range.to - range.from)) - 0.75, 0, 1.5, height);
    },
    [frames, range, cursor, most, rates, offset],
  );
}

function LoadedChart({ frames, rate, startTimecode }: FrameChartProps & { frames: FrameColumns }) {
  const total = frames.bytes.length;
  const [range, setRange] = useState<SlotRange>({ from: 0, to: total });
  const [cursor, setCursor] = useState(0);
  const framesPerSecond = toNumber(rate);
  const rates = useMemo(() => secondRates(frames.bytes, framesPerSecond), [frames, framesPerSecond]);
  const most = useMemo(
    () => ({
      bytes: greatest(frames.bytes, 1),
      rate: greatest(rates, 0.001),
    }),
    [frames, rates],
  );
  const offset = total - rates.length;
  const paint = usePaint({ frames, rates, most, offset, range, cursor });
  const { ref } = useCanvas(height, paint);
  const move = (to: number) => {
    const next = Math.min(total - 1, Math.max(0, to));
    setCursor(next);
    setRange((current) => revealSlot(current, next, total));
  };
  const zoom = (factor: number, around: number) =>
    setRange((current) => zoomRange(current, factor, around, total));
  const isKeyFrame = (slot: number) => /[a-z]/.test(frames.types[slot] ?? '');
  const onKey = keysOf({
    move,
    zoom: (factor) => zoom(factor, cursor),
    showAll: () => setRange({ from: 0, to: total }),
    cursor,
    total,
    second: Math.round(framesPerSecond),
    nextKey: (direction) => findSlot(cursor, direction, total, isKeyFrame),
  });
  const slotAt = (event: { clientX: number; currentTarget: Element }) => {
    const box = event.currentTarget.getBoundingClientRect();
    return range.from + ((event.clientX - box.left) / box.width) * (range.to - range.from);
  };
  const drag = useDrag(range, setRange, total);
  const timecode = useMemo(() => clipTimecode(startTimecode, rate), [startTimecode, rate]);
  const letter = frames.types[cursor] ?? '?';
  const second = rates[Math.max(0, cursor - offset)] ?? 0;
  const words = `Frame ${count(cursor)}, ${timecode(cursor)}: ${letter.toUpperCase()}${isKeyFrame(cursor) ? ', key' : ''}, ${quantity(count(Math.round((frames.bytes[cursor] ?? 0) / 1000)), 'kB')}; the second to here ${megabitsPerSecond(second * 1e6)}`;
  useWheel(ref, (factor, share) => zoom(factor, range.from + share * (range.to - range.from)));
  return (
    <figure>
      <p data-testid="frame-readout" className="figure mb-1 text-sm">
        {words}
      </p>
      <div className="relative border bg-surface">
        <Tops bytes={most.bytes} megabits={most.rate} />
        <canvas
          ref={ref}
          style={{ width: '100%', height }}
          tabIndex={0}
          role="slider"
          aria-label="Frames of the clip"
          aria-valuemin={0}
          aria-valuemax={total - 1}
          aria-valuenow={cursor}
          aria-valuetext={words}
          onKeyDown={onKey}
          onPointerDown={(event) => {
            drag.begin(event);
            setCursor(Math.min(total - 1, Math.max(0, Math.floor(slotAt(event)))));
          }}
          onPointerMove={drag.move}
          onPointerUp={drag.end}
          className="block touch-none"
        />
      </div>
      <figcaption className="mt-1 flex flex-wrap gap-x-5 text-xs text-muted">
        <FrameLegend types={frames.types} />
        <span>Arrows step, Shift with arrows goes to key frames, + and − zoom, 0 shows all</span>
      </figcaption>
    </figure>
  );
}

/** Dragging moves the part in sight. */
function useDrag(range: SlotRange, setRange: (range: SlotRange) => void, total: number) {
  const start = useRef<{ x: number; range: SlotRange; width: number } | null>(null);
  return {
    begin: (event: PointerEvent) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      start.current = { x: event.clientX, range, width: event.currentTarget.getBoundingClientRect().width };
    },
    move: (event: PointerEvent) => {
      const from = start.current;
      if (!from) return;
      const shift = ((from.x - event.clientX) / from.width) * (from.range.to - from.range.from);
      setRange(clampRange({ from: from.range.from + shift, to: from.range.to + shift }, total));
    },
    end: () => {
      start.current = null;
    },
  };
}

/** Zooming by the wheel; the page does not scroll meanwhile. */
function useWheel(
  ref: React.RefObject<HTMLCanvasElement | null>,
  onZoom: (factor: number, share: number) => void,
): void {
  const newest = useRef(onZoom);
  useEffect(() => {
    newest.current = onZoom;
  });
  useEffect(() => {
    const canvas = ref.current;
    if (!canvas) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = canvas.getBoundingClientRect();
      newest.current(Math.exp(-event.deltaY / 400), (event.clientX - box.left) / box.width);
    };
    canvas.addEventListener('wheel', onWheel, { passive: false });
    return () => canvas.removeEventListener('wheel', onWheel);
  }, [ref]);
}

const typeWords = [
  ['I', 'by itself'],
  ['P', 'from earlier frames'],
  ['B', 'from both sides'],
  ['?', 'not reported'],
] as const;

function FrameLegend({ types }: { types: string }) {
  const shapes: Record<string, React.ReactNode> = {
    I: <rect x="1" y="1" width="8" height="12" fill="var(--frame-i)" />,
    P: <path d="M1 13V6a4 4 0 0 1 8 0v7z" fill="var(--frame-p)" />,
    B: (
      <rect x="1.7" y="1.7" width="6.6" height="10.6" fill="none" stroke="var(--frame-b)" strokeWidth="1.4" />
    ),
    '?': <rect x="1" y="1" width="8" height="12" fill="var(--slot)" />,
  };
  const used = types.toUpperCase();
  return (
    <>
      {typeWords
        .filter(([letter]) => used.includes(letter))
        .map(([letter, word]) => (
          <span key={letter}>
            <svg aria-hidden width="10" height="14" className="mr-1 inline-block align-[-2px]">
              {shapes[letter]}
            </svg>
            {letter}: {word}
          </span>
        ))}
      <span>Tick below: key frame</span>
    </>
  );
}
