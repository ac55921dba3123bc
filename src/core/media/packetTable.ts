import { columnsOver, packColumns, rowBytes } from '../columns';

/** Letters of picture types as stored in a packet table. */
export const frameTypes = ['?', 'I', 'P', 'B'] as const;
export type FrameType = (typeof frameTypes)[number];

/** Flag bits of one packet. */
export const packetFlags = { key: 1, disposable: 2 } as const;

/**
 * Where every coded frame of a clip lies, one column per field, in decode order.
 * With it a reader asks the volume for byte ranges and needs no demultiplexer.
 */
export interface PacketTable {
  readonly length: number;
  /** First byte of the packet in the file. */
  readonly offset: Float64Array;
  /** Bytes of the packet. */
  readonly size: Uint32Array;
  /** Presentation time in units of the clip's time base; NaN where the container has none. */
  readonly pts: Float64Array;
  /** Decode time in units of the clip's time base; NaN where the container has none. */
  readonly dts: Float64Array;
  /** Bits of `packetFlags`. */
  readonly flags: Uint8Array;
  /** Index into `frameTypes`. */
  readonly type: Uint8Array;
  /** Slot in display order, 0 to length - 1: the rank of the packet's pts. */
  readonly slot: Uint32Array;
  /** Of a wrapped stream: where in what is read the frame lies. Absent where what is read is the frame. */
  readonly inside?: Inside | undefined;
}

/** See `WrappedPlace`. */
export interface Inside {
  /** Bytes of the elementary stream in front of the frame. */
  readonly skip: Uint32Array;
  /** Bytes of the frame itself. */
  readonly bytes: Uint32Array;
}

export interface PacketRow {
  offset: number;
  size: number;
  pts: number;
  dts: number;
  key: boolean;
  disposable: boolean;
  type: FrameType;
  /** Which field of a frame it is, where it is one alone. */
  field?: CodedField | null;
  /** Of a wrapped stream: see `Inside`. */
  inside?: { readonly skip: number; readonly bytes: number };
}

/** A picture that is coded for one field only. Source: ITU-T H.264, 7.4.3 */
export interface CodedField {
  readonly bottom: boolean;
  /** Number by which the two fields of a frame are known to belong together. */
  readonly frameNum: number;
}

/**
 * Takes a row into the one before it where both are fields of one frame, for which decoders give one picture. Their bytes must
 * lie behind each other.
 * @returns whether it was
 */
export function joinField(before: PacketRow | undefined, row: PacketRow): boolean {
  const [first, second] = [before?.field, row.field];
  if (!before || !first || !second || first.bottom === second.bottom || first.frameNum !== second.frameNum)
    return false;
  before.size += row.size;
  before.disposable &&= row.disposable;
  before.field = null;
  return true;
}

/**
 * Decode and presentation times that go on where a stream's clock begins anew, as where recordings were joined or a counter
 * ran over: such rows follow the one before at the usual distance.
 */
export function withoutClockBreaks(rows: readonly PacketRow[]): PacketRow[] {
  let shift = 0;
  let last = Number.NaN;
  let step = 0;
  return rows.map((row) => {
    const { pts, dts } = row;
    if (!Number.isFinite(dts)) return { ...row, pts: pts + shift };
    if (dts + shift < last) shift = last + step - dts;
    else if (dts + shift > last) step = dts + shift - last;
    last = dts + shift;
    return { ...row, pts: pts + shift, dts: last };
  });
}

/**
 * Presentation times of MPEG-1 and MPEG-2 video where its container gives them for some frames alone: a frame that nothing
 * refers to is shown when it is decoded, any other when the next such is decoded. Source: ISO/IEC 13818-2, 6.1.1.11
 */
export function withShownTimes(rows: readonly PacketRow[]): PacketRow[] {
  const reorders = rows.some(({ type }) => type === 'B');
  const [before, last] = [rows.at(-2), rows.at(-1)];
  // The last such frame is shown behind all others.
  let next = last && before ? 2 * last.dts - before.dts : Number.NaN;
  const filled: PacketRow[] = [];
  for (const row of rows.toReversed()) {
    const shown = reorders && row.type !== 'B' ? next : row.dts;
    filled.push(Number.isFinite(row.pts) ? row : { ...row, pts: shown });
    if (row.type !== 'B') next = row.dts;
  }
  return filled.reverse();
}

/**
 * Builds the columns from rows in decode order and ranks them by pts. Equal pts
 * keep their decode order; a frame without one stands at its decode time, or behind the one before it.
 */
export function packetTableFrom(rows: readonly PacketRow[]): PacketTable {
  let last = 0;
  const times = rows.map(
    ({ pts, dts }) => (last = Number.isFinite(pts) ? pts : Number.isFinite(dts) ? dts : last),
  );
  const displayOrder = rows
    .map((_, index) => index)
    .sort((a, b) => (times[a] ?? 0) - (times[b] ?? 0) || a - b);
  const slot = new Uint32Array(rows.length);
  displayOrder.forEach((decodeIndex, rank) => {
    slot[decodeIndex] = rank;
  });
  return {
    length: rows.length,
    offset: Float64Array.from(rows, (row) => row.offset),
    size: Uint32Array.from(rows, (row) => row.size),
    pts: Float64Array.from(rows, (row) => row.pts),
    dts: Float64Array.from(rows, (row) => row.dts),
    flags: Uint8Array.from(
      rows,
      (row) => (row.key ? packetFlags.key : 0) | (row.disposable ? packetFlags.disposable : 0),
    ),
    type: Uint8Array.from(rows, (row) => Math.max(0, frameTypes.indexOf(row.type))),
    slot,
    ...(rows.some(({ inside }) => inside) && {
      inside: {
        skip: Uint32Array.from(rows, ({ inside }) => inside?.skip ?? 0),
        bytes: Uint32Array.from(rows, ({ inside }) => inside?.bytes ?? 0),
      },
    }),
  };
}

const wideColumns = [
  ['offset', 'f64'],
  ['pts', 'f64'],
  ['dts', 'f64'],
  ['size', 'u32'],
  ['slot', 'u32'],
] as const;
const narrowColumns = [
  ['flags', 'u8'],
  ['type', 'u8'],
] as const;
const plainColumns = [...wideColumns, ...narrowColumns] as const;
const wrappedColumns = [...wideColumns, ['skip', 'u32'], ['bytes', 'u32'], ...narrowColumns] as const;
/** Of the count and of what tells a wrapped stream. */
const headBytes = 8;

/**
 * Packs the columns one after the other: offset, pts, dts (float64), size, slot and, of a wrapped stream, skip and bytes
 * inside (uint32), flags, type (uint8), all little-endian, behind a uint32 count and a uint32 that is 1 for a wrapped stream, else 0.
 */
export function encodePacketTable(table: PacketTable): Uint8Array {
  const { inside, length } = table;
  const bytes = inside
    ? packColumns(wrappedColumns, { ...table, skip: inside.skip, bytes: inside.bytes }, 0, length, headBytes)
    : packColumns(plainColumns, table, 0, length, headBytes);
  const head = new DataView(bytes.buffer);
  head.setUint32(0, length, true);
  head.setUint32(4, inside ? 1 : 0, true);
  return bytes;
}

/**
 * Unpacks what `encodePacketTable` wrote.
 * @throws RangeError when the length does not fit the count
 */
export function decodePacketTable(packed: Uint8Array): PacketTable {
  const bytes = new Uint8Array(packed); // own, aligned buffer for the typed arrays below (a copy even of a Buffer)
  const head = bytes.byteLength < headBytes ? null : new DataView(bytes.buffer);
  const length = head?.getUint32(0, true) ?? 0;
  const isWrapped = head?.getUint32(4, true) === 1;
  const expected = headBytes + length * rowBytes(isWrapped ? wrappedColumns : plainColumns);
  if (bytes.byteLength !== expected) {
    throw new RangeError(
      `A packet table of ${length} packets has ${expected} bytes, got ${bytes.byteLength}`,
    );
  }
  if (!isWrapped) return { length, ...columnsOver(plainColumns, length, bytes.buffer, headBytes) };
  const { skip, bytes: own, ...columns } = columnsOver(wrappedColumns, length, bytes.buffer, headBytes);
  return { length, ...columns, inside: { skip, bytes: own } };
}

export function isKey(table: PacketTable, index: number): boolean {
  return ((table.flags[index] ?? 0) & packetFlags.key) !== 0;
}

export function isDisposable(table: PacketTable, index: number): boolean {
  return ((table.flags[index] ?? 0) & packetFlags.disposable) !== 0;
}
