import { isKey, type PacketTable } from './packetTable';

/** A packet table by frame number (display order): what decoding a frame needs. Rows are decode order. */
export interface FrameIndex {
  readonly table: PacketTable;
  readonly intra: boolean;
  /** Row of each frame's packet. */
  readonly row: Uint32Array;
  /** Last row that must be decoded for a frame to come out: no frame before it is coded later. */
  readonly lastRow: Uint32Array;
  /** Row of the key frame from which a frame is decoded: the last one that is coded and shown no later. */
  readonly keyRow: Uint32Array;
}

/** Works out where a clip's frames are decoded from. */
export function frameIndex(table: PacketTable): FrameIndex {
  const { length, slot } = table;
  const row = new Uint32Array(length);
  const keyRow = new Uint32Array(length);
  const keys: number[] = [];
  for (let at = 0; at < length; at++) {
    const frame = slot[at] as number;
    row[frame] = at;
    if (isKey(table, at)) keys.push(at);
    keyRow[frame] = keys.findLast((key) => (slot[key] as number) <= frame) ?? 0;
  }
  const lastRow = new Uint32Array(length);
  let furthest = 0;
  for (let frame = 0; frame < length; frame++)
    lastRow[frame] = furthest = Math.max(furthest, row[frame] as number);
  return { table, intra: keys.length === length, row, lastRow, keyRow };
}
