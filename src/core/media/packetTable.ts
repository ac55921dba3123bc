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
}

export interface PacketRow {
  offset: number;
  size: number;
  pts: number;
  dts: number;
  key: boolean;
  disposable: boolean;
  type: FrameType;
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
  };
}

const bytesPerPacket = 8 + 8 + 8 + 4 + 4 + 1 + 1;

/**
 * Packs the columns one after the other: offset, pts, dts (float64), size, slot
 * (uint32), flags, type (uint8), all little-endian, behind a uint32 count and 4 bytes of padding.
 */
export function encodePacketTable(table: PacketTable): Uint8Array {
  const bytes = new Uint8Array(8 + table.length * bytesPerPacket);
  new DataView(bytes.buffer).setUint32(0, table.length, true);
  let at = 8;
  for (const column of [
    table.offset,
    table.pts,
    table.dts,
    table.size,
    table.slot,
    table.flags,
    table.type,
  ]) {
    bytes.set(new Uint8Array(column.buffer, column.byteOffset, column.byteLength), at);
    at += column.byteLength;
  }
  return bytes;
}

/**
 * Unpacks what `encodePacketTable` wrote.
 * @throws RangeError when the length does not fit the count
 */
export function decodePacketTable(packed: Uint8Array): PacketTable {
  const bytes = new Uint8Array(packed); // own, aligned buffer for the typed arrays below (a copy even of a Buffer)
  const length = bytes.byteLength < 8 ? 0 : new DataView(bytes.buffer).getUint32(0, true);
  if (bytes.byteLength !== 8 + length * bytesPerPacket) {
    throw new RangeError(
      `A packet table of ${length} packets has ${8 + length * bytesPerPacket} bytes, got ${bytes.byteLength}`,
    );
  }
  let at = 8;
  const take = (size: number) => {
    const start = at;
    at += size * length;
    return start;
  };
  const { buffer } = bytes;
  return {
    length,
    offset: new Float64Array(buffer, take(8), length),
    pts: new Float64Array(buffer, take(8), length),
    dts: new Float64Array(buffer, take(8), length),
    size: new Uint32Array(buffer, take(4), length),
    slot: new Uint32Array(buffer, take(4), length),
    flags: new Uint8Array(buffer, take(1), length),
    type: new Uint8Array(buffer, take(1), length),
  };
}

export function isKey(table: PacketTable, index: number): boolean {
  return ((table.flags[index] ?? 0) & packetFlags.key) !== 0;
}

export function isDisposable(table: PacketTable, index: number): boolean {
  return ((table.flags[index] ?? 0) & packetFlags.disposable) !== 0;
}
