import { columnsOver, packColumns, putColumns, rowBytes, type ColumnKind } from '../columns';
import { slotState } from './slots';

/**
 * The per-slot record of a trial, one column per field. Times are microseconds
 * from t0 on a monotonic clock, negative during the read-ahead; NaN where a
 * stage never happened.
 */
export interface Trace {
  readonly length: number;
  readonly bytes: Float64Array;
  readonly readStart: Float64Array;
  readonly readEnd: Float64Array;
  readonly decodeStart: Float64Array;
  readonly decodeEnd: Float64Array;
  /** When the decoder was done with what the slot handed it; its frame may come later (frame threads). */
  readonly decodeDone: Float64Array;
  /** How long the decoder was held up before the slot's frame, because there was no room for it, µs. */
  readonly decodeHeldUs: Int32Array;
  readonly processStart: Float64Array;
  readonly processEnd: Float64Array;
  /** When the presenter looked for this slot's frame: its due time plus the timer's error. */
  readonly wokeAt: Float64Array;
  readonly presentedAt: Float64Array;
  /** What the slot's sound took, worked out on a thread of its own, µs: to be read, to be decoded, to be resampled and mixed; -1 where it never was. */
  readonly soundReadUs: Int32Array;
  readonly soundDecodeUs: Int32Array;
  readonly soundMixUs: Int32Array;
  readonly soundBytes: Int32Array;
  /** Frame number read from the picture or its timestamp; -1 when nothing was shown. */
  readonly shownFrame: Int32Array;
  /** Values of `slotState`. */
  readonly state: Uint8Array;
  /** Values of `skippedAt`. */
  readonly skipped: Uint8Array;
  /** Buffer depths at the due time, in slots. */
  readonly readDepth: Uint16Array;
  readonly decodedDepth: Uint16Array;
  readonly readyDepth: Uint16Array;
  /** Values of `soundState`. */
  readonly sound: Uint8Array;
}

export type TraceColumn = Exclude<keyof Trace, 'length'>;

/** Columns in the order in which they are stored; wide ones first, so that all stay aligned. */
const traceColumns = [
  ['bytes', 'f64'],
  ['readStart', 'f64'],
  ['readEnd', 'f64'],
  ['decodeStart', 'f64'],
  ['decodeEnd', 'f64'],
  ['decodeDone', 'f64'],
  ['processStart', 'f64'],
  ['processEnd', 'f64'],
  ['wokeAt', 'f64'],
  ['presentedAt', 'f64'],
  ['decodeHeldUs', 'i32'],
  ['shownFrame', 'i32'],
  ['soundReadUs', 'i32'],
  ['soundDecodeUs', 'i32'],
  ['soundMixUs', 'i32'],
  ['soundBytes', 'i32'],
  ['readDepth', 'u16'],
  ['decodedDepth', 'u16'],
  ['readyDepth', 'u16'],
  ['state', 'u8'],
  ['skipped', 'u8'],
  ['sound', 'u8'],
] as const satisfies readonly (readonly [TraceColumn, ColumnKind])[];

const soundColumns: ReadonlySet<string> = new Set([
  'soundReadUs',
  'soundDecodeUs',
  'soundMixUs',
  'soundBytes',
  'sound',
]);

/** Before sound went along. */
const silentColumns = traceColumns.filter(([name]) => !soundColumns.has(name));

/** Before decoders were told apart from their frames: `arrival` counted packets, and there were no `decodeDone` and `decodeHeldUs`. */
const earlierColumns = [
  ['bytes', 'f64'],
  ['readStart', 'f64'],
  ['readEnd', 'f64'],
  ['decodeStart', 'f64'],
  ['decodeEnd', 'f64'],
  ['processStart', 'f64'],
  ['processEnd', 'f64'],
  ['wokeAt', 'f64'],
  ['presentedAt', 'f64'],
  ['arrival', 'i32'],
  ['shownFrame', 'i32'],
  ['readDepth', 'u16'],
  ['decodedDepth', 'u16'],
  ['readyDepth', 'u16'],
  ['state', 'u8'],
  ['skipped', 'u8'],
] as const satisfies readonly (readonly [TraceColumn | 'arrival', ColumnKind])[];

const bytesPerSlot = rowBytes(traceColumns);
const silentBytesPerSlot = rowBytes(silentColumns);
const earlierBytesPerSlot = rowBytes(earlierColumns);

/** Sizes that so many slots may have packed, bytes: as they are packed now, and as they were. */
export const packedTraceBytes = (slots: number): number[] => [
  slots * bytesPerSlot,
  slots * silentBytesPerSlot,
  slots * earlierBytesPerSlot,
];

const layOut = (length: number, buffer?: ArrayBuffer): Trace => ({
  length,
  ...columnsOver(traceColumns, length, buffer),
});

/** A trace that was packed before sound went along. */
const fromSilent = (length: number, buffer: ArrayBuffer): Trace => ({
  ...emptyTrace(length),
  ...columnsOver(silentColumns, length, buffer),
});

/** A trace that was packed in the earliest layout: its decoders are taken to be done when their frames came. */
function fromEarlier(length: number, buffer: ArrayBuffer): Trace {
  const { arrival: _, ...columns } = columnsOver(earlierColumns, length, buffer);
  return { ...emptyTrace(length), ...columns, decodeDone: columns.decodeEnd.slice() };
}

/** A trace of pending slots: times NaN, frames -1. */
export function emptyTrace(length: number): Trace {
  const trace = layOut(length);
  for (const [name, kind] of traceColumns)
    if (kind === 'f64' && name !== 'bytes') trace[name].fill(Number.NaN);
  for (const name of ['shownFrame', 'soundReadUs', 'soundDecodeUs', 'soundMixUs'] as const)
    trace[name].fill(-1);
  return trace;
}

/** Packs slots `from` to before `to` of a trace, column after column in `traceColumns` order, little-endian. */
export function encodeTrace(trace: Trace, from = 0, to = trace.length): Uint8Array {
  return packColumns(traceColumns, trace, from, to);
}

/**
 * Unpacks what `encodeTrace` wrote, now or in an earlier layout.
 * @param slots how many there are
 * @throws RangeError when the size is not theirs
 */
export function decodeTrace(packed: Uint8Array, slots = packed.byteLength / bytesPerSlot): Trace {
  const { buffer } = new Uint8Array(packed);
  if (Number.isInteger(slots) && packed.byteLength === slots * bytesPerSlot) return layOut(slots, buffer);
  if (packed.byteLength === slots * silentBytesPerSlot) return fromSilent(slots, buffer);
  if (packed.byteLength === slots * earlierBytesPerSlot) return fromEarlier(slots, buffer);
  throw new RangeError(`A trace has ${bytesPerSlot} bytes per slot, got ${packed.byteLength} bytes`);
}

/** Joins consecutive pieces of one trace. */
export function joinTraces(parts: readonly Trace[]): Trace {
  const joined = emptyTrace(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    putColumns(traceColumns, part, joined, at);
    at += part.length;
  }
  return joined;
}

/** Counts slots by what became of them. */
export function countStates(state: Uint8Array): {
  shown: number;
  late: number;
  dropped: number;
  wrong: number;
  finished: number;
} {
  const counts = new Float64Array(5);
  for (const value of state) counts[value] = (counts[value] ?? 0) + 1;
  const at = (index: number) => counts[index] ?? 0;
  return {
    shown: at(slotState.shown),
    late: at(slotState.late),
    dropped: at(slotState.dropped),
    wrong: at(slotState.wrong),
    finished: state.length - at(slotState.pending),
  };
}
