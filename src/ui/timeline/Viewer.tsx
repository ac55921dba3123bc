'use client';
import { count, fixed, quantity, upTo } from '@/core/format';
import { clsx } from 'clsx';
import { Circle, Expand, Frame, Repeat, SkipBack, SkipForward, Square } from 'lucide-react';
import { useCallback, useMemo, useRef, useState, type ReactNode } from 'react';
import { countingFor, isDropFrameText, parseTimecode } from '@/core/time/timecode';
import type { Timeline } from '@/core/timeline/model';
import { Button } from '../parts/Button';
import { scaleOptions } from '../parts/Choice';
import { useCommands } from '../keys/commands';
import type { usePlayhead } from './usePlayhead';
import { Jumps } from './Jumps';
import type { useViewer, ViewerLook } from './useViewer';
import { Select } from '../parts/Select';

interface ViewerProps {
  readonly timeline: Timeline;
  readonly viewer: ReturnType<typeof useViewer>;
  readonly playhead: ReturnType<typeof usePlayhead>;
  readonly timecodeAt: (slot: number) => string;
  readonly look: ViewerLook;
  readonly onLook: (changed: Partial<ViewerLook>) => void;
  readonly onRecord: () => void;
}

/** The picture of the slot under the playhead, worked as a trial works it; and how playing it goes. */
export function Viewer(props: ViewerProps) {
  const { timeline, viewer, timecodeAt } = props;
  const [guides, setGuides] = useState(false);
  const screen = useRef<HTMLDivElement>(null);
  const toggleGuides = useCallback(() => setGuides((on) => !on), []);
  const fullScreen = useCallback(() => {
    if (document.fullscreenElement) void document.exitFullscreen();
    else void screen.current?.requestFullscreen().catch(() => undefined);
  }, []);
  useCommands(
    useMemo(
      () => [
        { id: 'guides', label: 'Safe areas on or off', group: 'Viewer', key: 'g', run: toggleGuides },
        { id: 'full-screen', label: 'Full screen on or off', group: 'Viewer', key: 'f', run: fullScreen },
      ],
      [fullScreen, toggleGuides],
    ),
  );
  return (
    <section aria-label="Viewer" className="flex min-w-0 flex-col gap-1.5">
      <div
        ref={screen}
        className="relative mx-auto flex w-full items-center justify-center overflow-hidden bg-black"
        style={{ aspectRatio: `${timeline.width} / ${timeline.height}`, maxHeight: '42vh' }}
      >
        <Picture {...props} guides={guides} />
      </div>
      <div className="flex flex-wrap items-center gap-1">
        <Transport {...props} />
        <Tool label="Safe areas" pressed={guides} onClick={toggleGuides}>
          <Frame aria-hidden className="size-4" />
        </Tool>
        <Tool label="Full screen" onClick={fullScreen}>
          <Expand aria-hidden className="size-4" />
        </Tool>
        <RecordTool {...props} />
        <Look {...props} />
      </div>
      <Jumps
        state={viewer.state}
        jumps={viewer.jumps}
        overtaken={viewer.overtaken}
        timeline={timeline}
        timecodeAt={timecodeAt}
      />
    </section>
  );
}

/** What stands on the screen: the picture, guides over it, and what there is to say of it. */
function Picture({
  timeline,
  viewer,
  playhead,
  guides,
}: Pick<ViewerProps, 'timeline' | 'viewer' | 'playhead'> & { guides: boolean }) {
  const { picture, problem } = viewer;
  const remark = viewer.state?.remark;
  return (
    <>
      {picture && (
        <img
          src={picture.url}
          alt={`Slot ${picture.slot}`}
          data-slot={picture.slot}
          onLoad={() => viewer.shown(picture)}
          className="h-full w-full object-contain"
        />
      )}
      {guides && <SafeAreas />}
      {playhead.speed !== 0 && (
        <PlayState viewer={viewer} speed={playhead.speed} rate={timeline.rate.num / timeline.rate.den} />
      )}
      {(problem ?? remark) && (
        <p
          role={problem ? 'alert' : 'status'}
          className="absolute inset-x-0 bottom-0 bg-surface/90 px-3 py-1.5 text-sm"
        >
          {problem ?? remark}
        </p>
      )}
      {playhead.total === 0 && <p className="absolute text-sm text-white/70">Nothing on the timeline yet</p>}
    </>
  );
}

/** Where the playhead stands, and what moves it. */
function Transport({
  timeline,
  playhead,
  timecodeAt,
}: Pick<ViewerProps, 'timeline' | 'playhead' | 'timecodeAt'>) {
  return (
    <>
      <TimecodeEntry
        timeline={timeline}
        slot={playhead.slot}
        timecodeAt={timecodeAt}
        onGo={playhead.moveTo}
      />
      <Tool label="First slot" onClick={() => playhead.moveTo(0)}>
        <SkipBack aria-hidden className="size-4" />
      </Tool>
      <Button
        className="h-8 px-3"
        onClick={() => (playhead.speed === 0 ? playhead.play(1) : playhead.stop())}
      >
        {playhead.speed === 0 ? 'Play' : 'Stop'}
      </Button>
      <Tool label="Last slot" onClick={() => playhead.moveTo(playhead.total - 1)}>
        <SkipForward aria-hidden className="size-4" />
      </Tool>
      <Tool label="Loop" pressed={playhead.loop} onClick={() => playhead.setLoop(!playhead.loop)}>
        <Repeat aria-hidden className="size-4" />
      </Tool>
    </>
  );
}

function RecordTool({ playhead: { isRecording }, onRecord }: Pick<ViewerProps, 'playhead' | 'onRecord'>) {
  const Sign = isRecording ? Square : Circle;
  return (
    <Tool
      label={isRecording ? 'End the recording of the playhead' : 'Record the playhead for a scrub trial'}
      pressed={isRecording}
      onClick={onRecord}
    >
      <Sign aria-hidden className="size-4" />
    </Tool>
  );
}

/** What the viewer plays from, and how large. */
function Look({ look: { scale, read, cold }, onLook }: Pick<ViewerProps, 'look' | 'onLook'>) {
  return (
    <>
      <Select
        low
        passing
        label="Playback scale of the viewer"
        value={scale}
        onChange={(next) => onLook({ scale: next })}
        options={scaleOptions.map(([value]) => [value, `${value} scale`] as const)}
        className="ml-auto"
      />
      <Select
        low
        passing
        label="What the viewer reads"
        value={read}
        onChange={(next) => onLook({ read: next })}
        options={[
          ['originals', 'originals'],
          ['proxies', 'proxies'],
        ]}
      />
      <Select
        low
        passing
        label="Whether the viewer reads through the system’s cache"
        value={cold ? 'cold' : 'warm'}
        onChange={(next) => onLook({ cold: next === 'cold' })}
        options={[
          ['warm', 'warm'],
          ['cold', 'cold'],
        ]}
      />
    </>
  );
}

function Tool({
  label,
  pressed,
  onClick,
  children,
}: {
  label: string;
  pressed?: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      onClick={onClick}
      className={clsx(
        'inline-flex h-8 w-8 items-center justify-center border',
        pressed
          ? 'border-signal-text text-signal-text'
          : 'border-transparent text-muted hover:bg-raised hover:text-ink',
      )}
    >
      {children}
    </button>
  );
}

/** How playing goes: speed, rate, dropped slots, buffers; dropped slots stand out. */
function PlayState({
  viewer: { state },
  speed,
  rate,
}: {
  viewer: ViewerProps['viewer'];
  speed: number;
  rate: number;
}) {
  if (!state?.playing)
    return (
      <span className="absolute left-2 top-2 bg-black/70 px-2 py-0.5 text-sm text-white">
        filling the buffers
      </span>
    );
  return (
    <div
      className="absolute inset-x-2 top-2 flex flex-wrap gap-x-3 bg-black/70 px-2 py-0.5 text-sm text-white"
      data-testid="play-state"
    >
      <span className="figure">{speed > 0 ? `${speed}x` : `${-speed}x back`}</span>
      <span className="figure">
        {fixed(state.achievedRate, 1)} of {quantity(upTo(rate, 2), '/s')}
      </span>
      <span className={clsx('figure', state.dropped > 0 && 'font-semibold underline')}>
        {count(state.dropped)} dropped
      </span>
      <span className="figure">
        {state.buffers.read} read, {state.buffers.decoded} decoded, {state.buffers.ready} ready
      </span>
    </div>
  );
}

/** Safe areas of SMPTE ST 2046-1: 93 % of the picture for action, 90 % (dashed) for titles. */
function SafeAreas() {
  return (
    <svg
      aria-hidden
      viewBox="0 0 100 100"
      preserveAspectRatio="none"
      className="pointer-events-none absolute inset-0 h-full w-full"
    >
      {[93, 90].map((share) => (
        <rect
          key={share}
          x={(100 - share) / 2}
          y={(100 - share) / 2}
          width={share}
          height={share}
          fill="none"
          stroke="white"
          strokeWidth="1"
          vectorEffect="non-scaling-stroke"
          strokeDasharray={share === 90 ? '6 4' : undefined}
        />
      ))}
    </svg>
  );
}

/** The slot that a text means: a timecode, or a number alone. @throws Error that says what is wrong with it */
function slotOf(text: string, { rate, startTimecode }: Timeline): number {
  if (/^\d+$/.test(text)) return Number(text);
  const counting = countingFor(rate, isDropFrameText(startTimecode));
  return parseTimecode(text, counting) - parseTimecode(startTimecode, counting);
}

/** The playhead's timecode; typing another and Enter goes there. A number alone goes to that slot. */
function TimecodeEntry({
  timeline,
  slot,
  timecodeAt,
  onGo,
}: {
  timeline: Timeline;
  slot: number;
  timecodeAt: (slot: number) => string;
  onGo: (slot: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  useCommands(
    useMemo(
      () => [
        {
          id: 'enter-timecode',
          label: 'Type a timecode',
          group: 'Viewer',
          key: 't',
          run: () => {
            field.current?.focus();
            field.current?.select();
          },
        },
      ],
      [],
    ),
  );
  const go = () => {
    const text = (typed ?? '').trim();
    if (text === '') return;
    try {
      onGo(slotOf(text, timeline));
      setTyped(null);
      setProblem(null);
      field.current?.blur();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <span className="relative">
      <input
        ref={field}
        aria-label="Timecode of the playhead"
        aria-invalid={problem !== null}
        value={typed ?? timecodeAt(slot)}
        onFocus={(event) => {
          setTyped(timecodeAt(slot));
          event.target.select();
        }}
        onBlur={() => {
          setTyped(null);
          setProblem(null);
        }}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') go();
          if (event.key === 'Escape') field.current?.blur();
        }}
        className="figure h-8 w-32 border border-edge bg-ground px-2 text-base"
      />
      {problem && (
        <span
          role="alert"
          className="absolute left-0 top-9 z-10 w-72 border border-signal bg-surface p-2 text-xs"
        >
          {problem}
        </span>
      )}
    </span>
  );
}
