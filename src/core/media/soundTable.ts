import { columnsOver, packColumns, rowBytes } from '../columns';
import { partitionPoint } from '../stats/partitionPoint';

/** Where every coded packet of a clip's sound lies, one column per field, in the order of the stream. */
export interface SoundTable {
  readonly length: number;
  /** First byte in the file. */
  readonly offset: Float64Array;
  /** Bytes to read: of a wrapped stream with what stands between, of other streams. */
  readonly size: Uint32Array;
  /** When it begins to sound, s from the clip's first picture. Never less than of the one before. */
  readonly at: Float64Array;
}

export interface SoundRow {
  readonly offset: number;
  readonly size: number;
  /** s from the clip's first picture; NaN where the container gives no time: it follows the one before. */
  readonly at: number;
}

export function soundTableFrom(rows: readonly SoundRow[]): SoundTable {
  const at = new Float64Array(rows.length);
  let last = 0;
  rows.forEach((row, index) => {
    last = Number.isFinite(row.at) ? (index === 0 ? row.at : Math.max(last, row.at)) : last;
    at[index] = last;
  });
  return {
    length: rows.length,
    offset: Float64Array.from(rows, ({ offset }) => offset),
    size: Uint32Array.from(rows, ({ size }) => size),
    at,
  };
}

const soundColumns = [
  ['offset', 'f64'],
  ['at', 'f64'],
  ['size', 'u32'],
] as const;
const bytesPerRow = rowBytes(soundColumns);

/** Packs the columns one after the other: offset, at (float64), size (uint32), little-endian. */
export function encodeSoundTable(table: SoundTable): Uint8Array {
  return packColumns(soundColumns, table, 0, table.length);
}

/**
 * Unpacks what `encodeSoundTable` wrote.
 * @throws RangeError when the length is no whole number of packets
 */
export function decodeSoundTable(packed: Uint8Array): SoundTable {
  const length = packed.byteLength / bytesPerRow;
  if (!Number.isInteger(length))
    throw new RangeError(`A sound table has ${bytesPerRow} bytes per packet, got ${packed.byteLength} bytes`);
  return { length, ...columnsOver(soundColumns, length, new Uint8Array(packed).buffer) };
}

/** The first packet that must be decoded to hear a moment: some before it, as decoders begin in silence. @param before packets */
export function firstPacketFor({ length, at }: SoundTable, seconds: number, before: number): number {
  const holding = partitionPoint(length, (row) => (at[row] as number) <= seconds) - 1;
  return Math.max(0, holding - before);
}

/** Where what is read at once for a packet ends: packets behind it that adjoin it, up to a size and a moment. @returns the row after the last */
export function endOfRead(
  { length, offset, size, at }: SoundTable,
  first: number,
  mostBytes: number,
  untilSeconds: number,
): number {
  const begins = offset[first] as number;
  let end = first + 1;
  for (; end < length; end++) {
    const ends = (offset[end - 1] as number) + (size[end - 1] as number);
    if (offset[end] !== ends || ends + (size[end] as number) - begins > mostBytes) break;
    if ((at[end] as number) >= untilSeconds) break;
  }
  return end;
}

/**
 * The sound of a take: that of its files one after the other, at their places in the files end to end.
 * @param seconds how long the pictures of each file last
 */
export function joinedSound(
  tables: readonly SoundTable[],
  sizes: readonly number[],
  seconds: readonly number[],
): SoundTable {
  let [base, begins] = [0, 0];
  const rows = tables.flatMap(({ length, offset, size, at }, part) => {
    const shifted = Array.from({ length }, (_, row) => ({
      offset: base + (offset[row] as number),
      size: size[row] as number,
      at: begins + (at[row] as number),
    }));
    base += sizes[part] as number;
    begins += seconds[part] as number;
    return shifted;
  });
  return soundTableFrom(rows);
}
