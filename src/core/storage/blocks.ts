import { columnsOver, packColumns, putColumns, rowBytes, type ColumnKind } from '../columns';

/**
 * The record a storage trial leaves: one row per request, one column per field.
 * Times are microseconds from the trial's first request on a monotonic clock.
 */
export interface Blocks {
  readonly length: number;
  readonly startUs: Float64Array;
  readonly endUs: Float64Array;
  readonly bytes: Float64Array;
  /** When a frame-paced request had to be complete; NaN for others. */
  readonly dueUs: Float64Array;
  /** Which reader or writer asked. */
  readonly stream: Uint16Array;
  /** Which repeat of the measurement, or step of a ramp, from 0. */
  readonly repeat: Uint16Array;
  /** 0 read, 1 write. */
  readonly write: Uint8Array;
  /** 1 when a frame-paced request was given up because its slot had passed. */
  readonly skipped: Uint8Array;
  /** 1 when this host gave a stand-in's bytes later than its model would have. */
  readonly hostLate: Uint8Array;
}

/** Whether a frame-paced request came after its slot, or was given up. Others miss nothing. */
export function isMissed({ skipped, endUs, dueUs }: Blocks, row: number): boolean {
  return skipped[row] === 1 || (endUs[row] as number) > (dueUs[row] as number);
}

/** Columns in the order in which they are stored. */
const blockColumns = [
  ['startUs', 'f64'],
  ['endUs', 'f64'],
  ['bytes', 'f64'],
  ['dueUs', 'f64'],
  ['stream', 'u16'],
  ['repeat', 'u16'],
  ['write', 'u8'],
  ['skipped', 'u8'],
  ['hostLate', 'u8'],
] as const satisfies readonly (readonly [Exclude<keyof Blocks, 'length'>, ColumnKind])[];
const bytesPerBlock = rowBytes(blockColumns);

/** Size of so many packed requests, bytes. */
export const packedBlockBytes = (blocks: number): number => blocks * bytesPerBlock;

export function emptyBlocks(length: number): Blocks {
  return { length, ...columnsOver(blockColumns, length) };
}

/** Names of all columns. */
export const columnNames = blockColumns.map(([name]) => name);

/** A record's rows `from` to before `to`, as one piece of memory: column after column, little-endian. */
export function encodeBlocks(blocks: Blocks, from = 0, to = blocks.length): Uint8Array {
  return packColumns(blockColumns, blocks, from, to);
}

/**
 * Reads what `encodeBlocks` wrote.
 * @throws RangeError when the size is no whole number of rows
 */
export function decodeBlocks(packed: Uint8Array): Blocks {
  const length = packed.byteLength / bytesPerBlock;
  if (!Number.isInteger(length))
    throw new RangeError(`A block record has ${bytesPerBlock} bytes per row, got ${packed.byteLength} bytes`);
  return { length, ...columnsOver(blockColumns, length, new Uint8Array(packed).buffer) };
}

/** Joins records in order. */
export function joinBlocks(parts: readonly Blocks[]): Blocks {
  const joined = emptyBlocks(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    putColumns(blockColumns, part, joined, at);
    at += part.length;
  }
  return joined;
}

/** The rows for which `keep` says yes, in their order. */
export function filterBlocks(blocks: Blocks, keep: (row: number) => boolean): Blocks {
  const rows: number[] = [];
  for (let row = 0; row < blocks.length; row++) if (keep(row)) rows.push(row);
  const part = emptyBlocks(rows.length);
  for (const name of columnNames)
    rows.forEach((row, at) => {
      part[name][at] = blocks[name][row] as number;
    });
  return part;
}
