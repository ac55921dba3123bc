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

const wide = ['startUs', 'endUs', 'bytes', 'dueUs'] as const;
const middle = ['stream', 'repeat'] as const;
const narrow = ['write', 'skipped', 'hostLate'] as const;
const bytesPerBlock = wide.length * 8 + middle.length * 2 + narrow.length;

/** Size of so many packed requests, bytes. */
export const packedBlockBytes = (blocks: number): number => blocks * bytesPerBlock;

function layOut(length: number, buffer: ArrayBuffer): Blocks {
  let offset = 0;
  const columns: Record<string, unknown> = { length };
  const take = (width: number) => {
    const at = offset;
    offset += width * length;
    return at;
  };
  for (const name of wide) columns[name] = new Float64Array(buffer, take(8), length);
  for (const name of middle) columns[name] = new Uint16Array(buffer, take(2), length);
  for (const name of narrow) columns[name] = new Uint8Array(buffer, take(1), length);
  return columns as unknown as Blocks;
}

export function emptyBlocks(length: number): Blocks {
  return layOut(length, new ArrayBuffer(length * bytesPerBlock));
}

/** Names of all columns. */
export const columnNames = [...wide, ...middle, ...narrow];

/** A record's rows `from` to before `to`, as one piece of memory: column after column, little-endian. */
export function encodeBlocks(blocks: Blocks, from = 0, to = blocks.length): Uint8Array {
  const part = emptyBlocks(to - from);
  for (const name of columnNames) part[name].set(blocks[name].subarray(from, to));
  return new Uint8Array(part.startUs.buffer);
}

/**
 * Reads what `encodeBlocks` wrote.
 * @throws RangeError when the size is no whole number of rows
 */
export function decodeBlocks(packed: Uint8Array): Blocks {
  const length = packed.byteLength / bytesPerBlock;
  if (!Number.isInteger(length))
    throw new RangeError(`A block record has ${bytesPerBlock} bytes per row, got ${packed.byteLength} bytes`);
  return layOut(length, new Uint8Array(packed).buffer);
}

/** Joins records in order. */
export function joinBlocks(parts: readonly Blocks[]): Blocks {
  const joined = emptyBlocks(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    for (const name of columnNames) joined[name].set(part[name], at);
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
