'use client';
import { useCallback, useEffect, useMemo, useRef, useState, type RefObject } from 'react';
import type { Gesture } from '@/core/scrub/gesture';
import type { Item, Timeline } from '@/core/timeline/model';
import { endOf, lengthOf } from '@/core/timeline/model';
import { useCommands } from '../keys/commands';
import { playheadCommands, type Marks } from './playheadCommands';
import type { useViewer } from './useViewer';

interface Now {
  slot: number;
  speed: number;
  loop: boolean;
  marks: Marks;
  total: number;
}

/** Where playing at a speed begins, and what it goes round in: at the end of what is marked it begins anew. Null where nothing can be played. */
function playedFrom({ marks, total, loop, slot }: Now, speed: number) {
  if (total === 0) return null;
  const begin = marks.in ?? 0;
  const end = (marks.out ?? total - 1) + 1;
  let from = slot;
  if (speed > 0 && (slot >= end - 1 || (loop && slot < begin))) from = begin;
  if (speed < 0 && (slot <= begin || (loop && slot >= end))) from = end - 1;
  return { from, loop: loop && end - begin > 1 ? { from: begin, to: end } : null };
}

/** The next place where an item begins or ends; undefined where there is none in that direction. */
function nextCut({ tracks }: Timeline, slot: number, direction: 1 | -1): number | undefined {
  const points = [
    ...new Set(tracks.flatMap(({ items }) => items.flatMap((item: Item) => [item.start, endOf(item)]))),
  ].sort((a, b) => a - b);
  return direction > 0 ? points.find((point) => point > slot) : points.findLast((point) => point < slot);
}

/** While it plays the playhead follows the pictures; when it comes to the end it stands there. */
function useFollowing(
  state: ReturnType<typeof useViewer>['state'],
  now: RefObject<Now>,
  run: RefObject<number>,
  {
    setSlot,
    setSpeed,
  }: { readonly setSlot: (slot: number) => void; readonly setSpeed: (speed: number) => void },
): void {
  useEffect(() => {
    if (!state) return;
    if (state.problem !== null) {
      setSpeed(0);
      return;
    }
    // What an earlier run still tells is news no more.
    if (now.current.speed === 0 || state.run !== run.current) return;
    if (state.playing) setSlot(state.slot);
    else if (state.tookMs) {
      setSpeed(0);
      setSlot(state.slot);
    }
  }, [state, now, run, setSlot, setSpeed]);
}

/** The playhead of an editor: stands, is moved, or follows what plays. Keys as in every viewer of Navvy. */
export function usePlayhead(timeline: Timeline, viewer: ReturnType<typeof useViewer>) {
  const [slot, setSlot] = useState(0);
  const [speed, setSpeed] = useState(0);
  const [loop, setLoop] = useState(false);
  const [marks, setMarks] = useState<Marks>({ in: null, out: null });
  const run = useRef(0);
  const recording = useRecording();
  const { note } = recording;
  const now = useRef<Now>({ slot, speed, loop, marks, total: 0 });
  const total = lengthOf(timeline);
  useEffect(() => {
    now.current = { slot, speed, loop, marks, total };
  });
  const { command, state } = viewer;

  /** Puts the playhead down; at most right behind the last slot, where the next item goes. @param slots length of the timeline, where it has only just changed */
  const moveTo = useCallback(
    (wanted: number, slots = now.current.total) => {
      const target = Math.max(0, Math.min(slots, wanted));
      now.current.slot = target;
      now.current.speed = 0;
      setSlot(target);
      setSpeed(0);
      note(target);
      command({ type: 'show', slot: target });
    },
    [command, note],
  );

  const play = useCallback(
    (next: number) => {
      const where = playedFrom(now.current, next);
      if (where === null) return;
      now.current.speed = next;
      setSpeed(next);
      command({ type: 'play', run: ++run.current, speed: next, ...where });
    },
    [command],
  );
  const stop = useCallback(() => {
    now.current.speed = 0;
    setSpeed(0);
    command({ type: 'stop' });
  }, [command]);

  useFollowing(state, now, run, { setSlot, setSpeed });
  const cuts = useCallback(
    (direction: 1 | -1) => {
      const target = nextCut(timeline, now.current.slot, direction);
      if (target !== undefined) moveTo(target);
    },
    [timeline, moveTo],
  );
  const second = Math.round(timeline.rate.num / timeline.rate.den);
  useCommands(
    useMemo(
      () => playheadCommands(() => now.current, { play, stop, moveTo, cuts, second, setMarks, setLoop }),
      [play, stop, moveTo, cuts, second],
    ),
  );
  const record = recording.begin;
  const endRecording = useCallback(() => recording.end(now.current.total), [recording]);
  return {
    slot,
    speed,
    loop,
    setLoop,
    marks,
    total,
    moveTo,
    play,
    stop,
    record,
    endRecording,
    isRecording: recording.isOn,
  };
}

/** Where the playhead went since the recording began. */
function useRecording() {
  const kept = useRef<{ startedMs: number; timesMs: number[]; targets: number[] } | null>(null);
  const [isOn, setIsOn] = useState(false);
  const begin = useCallback(() => {
    kept.current = { startedMs: performance.now(), timesMs: [], targets: [] };
    setIsOn(true);
  }, []);
  const note = useCallback((target: number) => {
    if (!kept.current) return;
    kept.current.timesMs.push(performance.now() - kept.current.startedMs);
    kept.current.targets.push(target);
  }, []);
  /** Ends the recording and gives what was moved; null when the playhead stood still. */
  const end = useCallback((slots: number): Gesture | null => {
    const moved = kept.current;
    kept.current = null;
    setIsOn(false);
    if (!moved || moved.timesMs.length < 2) return null;
    const first = moved.timesMs[0] as number;
    return {
      kind: 'recorded',
      slots,
      timesMs: moved.timesMs.map((time) => Math.round((time - first) * 10) / 10),
      targets: moved.targets,
    };
  }, []);
  return useMemo(() => ({ isOn, begin, note, end }), [isOn, begin, note, end]);
}
