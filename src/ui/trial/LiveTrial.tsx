'use client';
import { clockTime, count, quantity, upTo } from '@/core/format';
import { clsx } from 'clsx';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { slotState } from '@/core/playback/slots';
import { decodeTraceView } from '@/core/playback/traceView';
import { toNumber } from '@/core/time/rational';
import { rateOf, slotTimecode } from '@/core/timeline/subject';
import type { PlayedTrial } from '@/db/kinds';
import type { LiveProgress } from '@/server/platform/events';
import { RibbonLegend } from '../charts/Legend';
import type { RibbonData } from '../charts/paintRibbon';
import { SlotChart } from '../charts/SlotChart';
import { Figure, FigureRow } from '../parts/Figure';
import { useEvents } from '../shell/events';
import { useProgress } from '../shell/status';
import { LiveFrame } from './LiveFrame';
import { watchPictures, type LivePicture } from './livePictures';
import { addressOf } from '../api';
import { CheckField } from '../parts/Checkbox';

const letters: Record<string, number> = {
  p: slotState.pending,
  s: slotState.shown,
  l: slotState.late,
  d: slotState.dropped,
  w: slotState.wrong,
};

/** The playhead follows the run; a click does not move it. */
function stay(): void {
  // nothing to do
}

/** A trial that waits or runs. Leaving the page does not stop it; coming back finds it. */
export function LiveTrial({ trial }: { trial: PlayedTrial }) {
  const told = useProgress<Extract<LiveProgress, { counters: unknown } | { beforehand: unknown }>>(trial.id);
  const progress = told && 'counters' in told ? told : null;
  const ribbon = useLiveRibbon(trial);
  const counters = progress?.counters ?? null;
  const waiting = trial.status === 'queued';
  const timecodeAt = useMemo(() => slotTimecode(trial.subject), [trial]);
  const rate = toNumber(rateOf(trial.subject));
  const at = Math.max(0, (counters?.slot ?? 0) - 1);
  return (
    <div className="flex flex-col gap-4">
      <LiveFrame
        trial={trial}
        now={
          counters && counters.slot > 0
            ? `${count(counters.slot)} of ${count(counters.slotCount)} slots played, ${count(counters.dropped)} dropped`
            : told && 'beforehand' in told
              ? `Decoding pictures for the stand-in, ${count(told.beforehand.done)} of ${count(told.beforehand.all)}`
              : 'Filling the read-ahead'
        }
      >
        <div className="grid gap-4 lg:grid-cols-[minmax(0,420px)_1fr]">
          <LiveViewer trialId={trial.id} running={!waiting} timecodeAt={timecodeAt} />
          <FigureRow columns={4}>
            <Figure name="Shown">{count(counters?.shown ?? 0)}</Figure>
            <Figure name="Dropped">{count(counters?.dropped ?? 0)}</Figure>
            <Figure name="Achieved" note={`of ${upTo(rate, 3)} per second`}>
              {quantity(counters?.achievedRate ?? 0, '/s', 1)}
            </Figure>
            <Figure name="Time left">{progress?.msLeft != null ? clockTime(progress.msLeft) : '–'}</Figure>
            <Buffer
              name="Read ahead"
              depth={counters?.depths.read ?? 0}
              room={trial.settings.buffers.readAhead}
            />
            <Buffer
              name="Decoded"
              depth={counters?.depths.decoded ?? 0}
              room={trial.settings.buffers.decoded}
            />
            <Buffer name="Ready" depth={counters?.depths.ready ?? 0} room={trial.settings.buffers.ready} />
            <Figure name="Timecode">{timecodeAt(at)}</Figure>
          </FigureRow>
        </div>
        <SlotChart
          data={ribbon}
          slotMs={1000 / rate}
          timecodeAt={timecodeAt}
          playhead={at}
          onPlayhead={stay}
          readout={(slot) => `Slot ${count(slot)}, ${timecodeAt(slot)}`}
        />
        <RibbonLegend causes={false} />
      </LiveFrame>
    </div>
  );
}

/** How full a buffer between stages is. An empty one means that the stage before it is late. */
function Buffer({ name, depth, room }: { name: string; depth: number; room: number }) {
  return (
    <Figure name={name} note={`of ${room} slots`}>
      {depth}
      <span aria-hidden className="mt-1 flex h-2 gap-px">
        {Array.from({ length: room }, (_, place) => (
          <span key={place} className={clsx('flex-1', place < depth ? 'bg-slot' : 'bg-raised')} />
        ))}
      </span>
    </Figure>
  );
}

/** The states of slots so far: what is saved, then what events add. */
function useLiveRibbon(trial: PlayedTrial): RibbonData {
  const slotCount = trial.progress?.slotCount ?? 0;
  const [data, setData] = useState<RibbonData>(() => ({
    slots: slotCount,
    state: new Uint8Array(slotCount),
    charge: new Uint8Array(slotCount),
  }));
  const state = useRef(data.state);
  const show = useCallback(() => setData((current) => ({ ...current, state: state.current.slice() })), []);
  const fetchSaved = useCallback(() => {
    void fetch(addressOf('GET /api/trials/{id}/trace', { ids: { id: trial.id } })).then(
      async (response) => {
        if (!response.ok) return;
        state.current.set(
          decodeTraceView(await response.arrayBuffer()).state.subarray(0, state.current.length),
        );
        show();
      },
      () => undefined,
    );
  }, [trial.id, show]);
  useEvents((event) => {
    if (event.type === 'connection' && event.connected) fetchSaved();
    if (event.type !== 'trial-slots' || event.trialId !== trial.id) return;
    Array.from(event.states).forEach((letter, index) => {
      if (event.from + index < state.current.length)
        state.current[event.from + index] = letters[letter] ?? slotState.pending;
    });
    show();
  });
  return data;
}

/** The picture that a trial has under way, while somebody looks. */
export function LiveViewer({
  trialId,
  running,
  timecodeAt,
  note = 'Every sixth frame or so, taken after it was presented; it does not touch the measurement.',
  when = 'as presented',
}: {
  trialId: string;
  running: boolean;
  timecodeAt: (slot: number) => string;
  /** Which pictures they are. */
  note?: string;
  /** What had become of them when they were taken. */
  when?: string;
}) {
  const [picture, setPicture] = useState<LivePicture | null>(null);
  const [on, setOn] = useState(true);
  useEffect(() => {
    if (!running || !on) return;
    const control = new AbortController();
    watchPictures(trialId, control.signal, setPicture).catch(() => undefined);
    return () => control.abort();
  }, [trialId, running, on]);
  return (
    <figure className="m-0">
      <div className="flex aspect-video items-center justify-center border bg-black">
        {picture && on ? (
          <img
            src={picture.url}
            alt={`Frame ${picture.frame} ${when}`}
            className="size-full object-contain"
          />
        ) : (
          <span className="text-sm text-[#9a9a9a]">
            {on ? 'The picture comes with the first slot' : 'Picture off'}
          </span>
        )}
      </div>
      <figcaption className="mt-1 flex items-center gap-3 text-xs text-muted">
        <span>{note}</span>
        <CheckField className="ml-auto text-xs" checked={on} onChange={setOn}>
          Picture
        </CheckField>
        {picture && <span className="figure whitespace-nowrap">{timecodeAt(picture.frame)}</span>}
      </figcaption>
    </figure>
  );
}
