import { marksOf, type Range } from '../media/faults';
import type { Trace } from './trace';
import type { Work } from './work';

/** What a result page draws of a trace: per slot, durations in ms, NaN where a stage never ran. */
export interface TraceView {
  readonly slots: number;
  /** Values of `slotState`. */
  readonly state: Uint8Array;
  /** Bits of `causeBit`. */
  readonly charge: Uint8Array;
  /** Values of `skippedAt`. */
  readonly skipped: Uint8Array;
  /** 1 where the picture shown is concealed, or built on one that is. */
  readonly doubtful: Uint8Array;
  readonly readDepth: Uint8Array;
  readonly decodedDepth: Uint8Array;
  readonly readyDepth: Uint8Array;
  readonly readMs: Float32Array;
  readonly decodeMs: Float32Array;
  readonly processMs: Float32Array;
  /** Presented against due. */
  readonly errorMs: Float32Array;
  readonly bytes: Float32Array;
  /** Of the slot's sound, which is worked out beside the pictures; NaN where none was. */
  readonly soundReadMs: Float32Array;
  readonly soundDecodeMs: Float32Array;
  readonly soundMixMs: Float32Array;
  /** Values of `soundState`. */
  readonly sound: Uint8Array;
}

const wide = [
  'readMs',
  'decodeMs',
  'processMs',
  'errorMs',
  'bytes',
  'soundReadMs',
  'soundDecodeMs',
  'soundMixMs',
] as const;
const narrow = [
  'state',
  'charge',
  'skipped',
  'doubtful',
  'readDepth',
  'decodedDepth',
  'readyDepth',
  'sound',
] as const;
const bytesPerSlot = wide.length * 4 + narrow.length;

/**
 * What a page draws of a trace.
 * @param doubtful slots whose pictures are concealed, or built on such
 * @param services effective time of each stage per slot in µs, without waiting (see `measuredWork`); a stage that never ended counts as none
 */
export function viewOfTrace(
  trace: Trace,
  charges: Uint8Array | null,
  slotUs: number,
  services: Pick<Work, 'read' | 'decode' | 'process'>,
  doubtful: readonly Range[] = [],
): TraceView {
  const view = emptyView(trace.length);
  for (let slot = 0; slot < trace.length; slot++) {
    const at = (column: Float64Array) => column[slot] as number;
    view.readMs[slot] = Number.isNaN(at(trace.readEnd)) ? Number.NaN : at(services.read) / 1000;
    view.decodeMs[slot] = Number.isNaN(at(trace.decodeEnd)) ? Number.NaN : at(services.decode) / 1000;
    view.processMs[slot] = Number.isNaN(at(trace.processEnd)) ? Number.NaN : at(services.process) / 1000;
    view.errorMs[slot] = (at(trace.presentedAt) - slot * slotUs) / 1000;
    view.bytes[slot] = at(trace.bytes);
    const soundMs = (column: Int32Array) =>
      (column[slot] as number) < 0 ? Number.NaN : (column[slot] as number) / 1000;
    view.soundReadMs[slot] = soundMs(trace.soundReadUs);
    view.soundDecodeMs[slot] = soundMs(trace.soundDecodeUs);
    view.soundMixMs[slot] = soundMs(trace.soundMixUs);
  }
  view.state.set(trace.state);
  view.skipped.set(trace.skipped);
  view.sound.set(trace.sound);
  view.doubtful.set(marksOf(doubtful, trace.length));
  if (charges) view.charge.set(charges.subarray(0, trace.length));
  for (const depth of ['readDepth', 'decodedDepth', 'readyDepth'] as const) view[depth].set(trace[depth]);
  return view;
}

function emptyView(slots: number, buffer: ArrayBuffer = new ArrayBuffer(slots * bytesPerSlot)): TraceView {
  let offset = 0;
  const columns: Record<string, unknown> = { slots };
  for (const name of wide) {
    columns[name] = new Float32Array(buffer, offset, slots);
    offset += slots * 4;
  }
  for (const name of narrow) {
    columns[name] = new Uint8Array(buffer, offset, slots);
    offset += slots;
  }
  return columns as unknown as TraceView;
}

/** A view's columns in one buffer: wide ones first, then narrow ones, little-endian. */
export function encodeTraceView(view: TraceView): Uint8Array {
  const copy = emptyView(view.slots);
  for (const name of [...wide, ...narrow]) copy[name].set(view[name]);
  return new Uint8Array(copy.readMs.buffer);
}

/**
 * Reads what `encodeTraceView` wrote, without copying.
 * @throws RangeError when the size is no whole number of slots
 */
export function decodeTraceView(buffer: ArrayBuffer): TraceView {
  const slots = buffer.byteLength / bytesPerSlot;
  if (!Number.isInteger(slots))
    throw new RangeError(`A trace view has ${bytesPerSlot} bytes per slot, got ${buffer.byteLength} bytes`);
  return emptyView(slots, buffer);
}
