'use client';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Gesture } from '@/core/scrub/gesture';
import type { Item, Timeline } from '@/core/timeline/model';
import { endOf, lengthOf } from '@/core/timeline/model';
import { useCommands } from '../keys/commands';
import type { useViewer } from './useViewer';

const speeds = [1, 2, 4, 8] as const;

/** Speed after one more press: from the other direction or rest to 1, then doubling. */
export function nextSpeed(current: number, direction: 1 | -1): number {
  if (Math.sign(current) !== direction) return direction;
  return direction * (speeds.find((speed) => speed > Math.abs(current)) ?? 8);
}

/** The playhead of an editor: stands, is moved, or follows what plays. Keys as in every viewer of Navvy. */
export function usePlayhead(timeline: Timeline, viewer: ReturnType<typeof useViewer>) {
  const [slot, setSlot] = useState(0);
  const [speed, setSpeed] = useState(0);
  const [loop, setLoop] = useState(false);
  const [marks, setMarks] = useState<{ in: number | null; out: number | null }>({ in: null, out: null });
  const run = useRef(0);
  const recording = useRef<{ startedMs: number; timesMs: number[]; targets: number[] } | null>(null);
  const [isRecording, setIsRecording] = useState(false);
  const now = useRef({ slot, speed, loop, marks, total: 0 });
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
      if (recording.current) {
        recording.current.timesMs.push(performance.now() - recording.current.startedMs);
        recording.current.targets.push(target);
      }
      command({ type: 'show', slot: target });
    },
    [command],
  );

  const play = useCallback(
    (next: number) => {
      const {
        marks: { in: first, out: last },
        total: slots,
        loop: round,
        slot: at,
      } = now.current;
      if (slots === 0) return;
      const begin = first ?? 0;
      const end = (last ?? slots - 1) + 1;
      let from = at;
      if (next > 0 && (at >= end - 1 || (round && at < begin))) from = begin;
      if (next < 0 && (at <= begin || (round && at >= end))) from = end - 1;
      now.current.speed = next;
      setSpeed(next);
      command({
        type: 'play',
        run: ++run.current,
        from,
        speed: next,
        loop: round && end - begin > 1 ? { from: begin, to: end } : null,
      });
    },
    [command],
  );
  const stop = useCallback(() => {
    now.current.speed = 0;
    setSpeed(0);
    command({ type: 'stop' });
  }, [command]);

  // While it plays the playhead follows the pictures; when it comes to the end it stands there.
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
  }, [state]);

  const cuts = useCallback(
    (direction: 1 | -1) => {
      const points = [
        ...new Set(
          timeline.tracks.flatMap(({ items }) => items.flatMap((item: Item) => [item.start, endOf(item)])),
        ),
      ].sort((a, b) => a - b);
      const target =
        direction > 0
          ? points.find((point) => point > now.current.slot)
          : points.findLast((point) => point < now.current.slot);
      if (target !== undefined) moveTo(target);
    },
    [timeline, moveTo],
  );
  const second = Math.round(timeline.rate.num / timeline.rate.den);
  useCommands(
    useMemo(
      () => [
        {
          id: 'toggle',
          label: 'Play or stop',
          group: 'Playback',
          key: ' ',
          run: () => (now.current.speed === 0 ? play(1) : stop()),
        },
        {
          id: 'backwards',
          label: 'Play backwards, faster with each press',
          group: 'Playback',
          key: 'j',
          run: () => play(nextSpeed(now.current.speed, -1)),
        },
        { id: 'halt', label: 'Stop', group: 'Playback', key: 'k', run: stop },
        {
          id: 'forwards',
          label: 'Play forwards, faster with each press',
          group: 'Playback',
          key: 'l',
          run: () => play(nextSpeed(now.current.speed, 1)),
        },
        {
          id: 'slot-on',
          label: 'One slot forward',
          group: 'Playback',
          key: 'ArrowRight',
          run: () => moveTo(now.current.slot + 1),
        },
        {
          id: 'slot-back',
          label: 'One slot back',
          group: 'Playback',
          key: 'ArrowLeft',
          run: () => moveTo(now.current.slot - 1),
        },
        {
          id: 'second-on',
          label: 'One second forward',
          group: 'Playback',
          key: 'Shift+ArrowRight',
          run: () => moveTo(now.current.slot + second),
        },
        {
          id: 'second-back',
          label: 'One second back',
          group: 'Playback',
          key: 'Shift+ArrowLeft',
          run: () => moveTo(now.current.slot - second),
        },
        { id: 'next-cut', label: 'Next cut', group: 'Playback', key: 'ArrowDown', run: () => cuts(1) },
        { id: 'previous-cut', label: 'Previous cut', group: 'Playback', key: 'ArrowUp', run: () => cuts(-1) },
        { id: 'first', label: 'First slot', group: 'Playback', key: 'Home', run: () => moveTo(0) },
        {
          id: 'last',
          label: 'Last slot',
          group: 'Playback',
          key: 'End',
          run: () => moveTo(now.current.total - 1),
        },
        {
          id: 'mark-in',
          label: 'Mark in',
          group: 'Playback',
          key: 'i',
          run: () =>
            setMarks((before) => ({
              in: now.current.slot,
              out: before.out !== null && before.out < now.current.slot ? null : before.out,
            })),
        },
        {
          id: 'mark-out',
          label: 'Mark out',
          group: 'Playback',
          key: 'o',
          run: () =>
            setMarks((before) => ({
              in: before.in !== null && before.in > now.current.slot ? null : before.in,
              out: now.current.slot,
            })),
        },
        {
          id: 'clear-marks',
          label: 'Clear in and out',
          group: 'Playback',
          key: 'Shift+I',
          run: () => setMarks({ in: null, out: null }),
        },
        {
          id: 'loop',
          label: 'Loop on or off',
          group: 'Playback',
          key: 'Shift+L',
          run: () => setLoop((on) => !on),
        },
      ],
      [play, stop, moveTo, cuts, second],
    ),
  );

  const record = useCallback(() => {
    recording.current = { startedMs: performance.now(), timesMs: [], targets: [] };
    setIsRecording(true);
  }, []);
  /** Ends the recording and gives what was moved; null when the playhead stood still. */
  const endRecording = useCallback((): Gesture | null => {
    const kept = recording.current;
    recording.current = null;
    setIsRecording(false);
    if (!kept || kept.timesMs.length < 2) return null;
    const first = kept.timesMs[0] as number;
    return {
      kind: 'recorded',
      slots: now.current.total,
      timesMs: kept.timesMs.map((time) => Math.round((time - first) * 10) / 10),
      targets: kept.targets,
    };
  }, []);
  return { slot, speed, loop, setLoop, marks, total, moveTo, play, stop, record, endRecording, isRecording };
}
