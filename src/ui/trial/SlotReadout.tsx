import { count, milliseconds, size } from '@/core/format';
import { causesOf } from '@/core/playback/attribute';
import { causeLabel } from '@/core/sentences/playback';
import { soundState } from '@/core/playback/sound';
import { skippedAt, slotState, stages } from '@/core/playback/slots';
import type { TraceView } from '@/core/playback/traceView';

/** One slot in words: what became of it, why, and what each stage took. */
export function SlotReadout({
  view,
  slot,
  timecodeAt,
}: {
  view: TraceView;
  slot: number;
  timecodeAt: (slot: number) => string;
}) {
  const state = view.state[slot];
  const charge = view.charge[slot] ?? 0;
  const skipped = view.skipped[slot] ?? 0;
  const fate =
    state === slotState.dropped
      ? `dropped; ${causesOf(charge).length > 0 ? causeLabel(charge) : 'no cause found'}; ${skipped === skippedAt.media ? 'the decoder made no picture' : skipped === skippedAt.none || skipped === skippedAt.present ? 'finished too late' : `given up before ${stages[skipped - 1]}`}`
      : state === slotState.late
        ? 'shown late'
        : state === slotState.wrong
          ? 'showed a wrong frame'
          : state === slotState.shown
            ? 'shown'
            : 'not reached';
  const isDoubtful = view.doubtful[slot] === 1 && state !== slotState.dropped;
  const parts: readonly (readonly [string, string])[] = [
    ['read', milliseconds(view.readMs[slot])],
    ['decode', milliseconds(view.decodeMs[slot])],
    ['process', milliseconds(view.processMs[slot])],
    ['against due', milliseconds(view.errorMs[slot])],
    ['size', size(view.bytes[slot] ?? 0)],
    [
      'buffers',
      `${view.readDepth[slot]} read, ${view.decodedDepth[slot]} decoded, ${view.readyDepth[slot]} ready`,
    ],
  ];
  const sound = view.sound[slot] ?? soundState.silent;
  const soundParts: readonly (readonly [string, string])[] = Number.isNaN(
    view.soundReadMs[slot] ?? Number.NaN,
  )
    ? []
    : [
        ['sound: read', milliseconds(view.soundReadMs[slot])],
        ['decode', milliseconds(view.soundDecodeMs[slot])],
        ['mix', milliseconds(view.soundMixMs[slot])],
      ];
  return (
    <>
      <p>
        <span className="figure">{timecodeAt(slot)}</span>{' '}
        <span className="text-muted">slot {count(slot)}</span>{' '}
        <strong className="font-semibold">
          {fate}
          {sound === soundState.underRun && '; its sound was not ready in time'}
          {sound === soundState.broken && '; the decoder refused some of its sound'}
          {isDoubtful && '; its picture is concealed by the decoder, or built on a frame that is missing'}
        </strong>
      </p>
      <p className="flex flex-wrap gap-x-4 text-muted">
        {[...parts, ...soundParts].map(([name, value], at) => (
          <span key={at}>
            {name} <span className="figure text-ink">{value}</span>
          </span>
        ))}
      </p>
    </>
  );
}
