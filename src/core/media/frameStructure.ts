import { frameTypes, isKey, type PacketTable } from './packetTable';

/** How the frames of a clip depend on each other. */
export interface FrameStructure {
  /** True when every frame decodes by itself. */
  readonly intra: boolean;
  /** Frames from one key frame to the next; null when intra or with one key frame only. */
  readonly keyInterval: { readonly min: number; readonly mean: number; readonly max: number } | null;
  readonly hasBFrames: boolean;
  /** How many frames a decoder must hold back to put frames in display order. */
  readonly reorderDepth: number;
}

/** Reads the frame structure off a packet table. Intervals are counted in display order. */
export function frameStructure(table: PacketTable): FrameStructure {
  const keySlots: number[] = [];
  let reorderDepth = 0;
  for (let i = 0; i < table.length; i++) {
    if (isKey(table, i)) keySlots.push(table.slot[i] ?? 0);
    reorderDepth = Math.max(reorderDepth, i - (table.slot[i] ?? 0));
  }
  keySlots.sort((a, b) => a - b);
  const intervals = keySlots.slice(1).map((slot, i) => slot - (keySlots[i] ?? 0));
  const intra = table.length > 0 && keySlots.length === table.length;
  const bIndex = frameTypes.indexOf('B');
  return {
    intra,
    keyInterval: intra || intervals.length === 0 ? null : {
      min: Math.min(...intervals),
      mean: intervals.reduce((sum, value) => sum + value, 0) / intervals.length,
      max: Math.max(...intervals),
    },
    hasBFrames: reorderDepth > 0 || table.type.includes(bIndex),
    reorderDepth,
  };
}

/** Says the structure in a technician's words: "intra", "long-GOP, key every 24". */
export function frameStructureLabel(structure: FrameStructure): string {
  if (structure.intra) return 'Intra';
  const { keyInterval } = structure;
  const b = structure.hasBFrames ? ', B-frames' : '';
  if (!keyInterval) return `Long-GOP, one key frame${b}`;
  const { min, max } = keyInterval;
  return `Long-GOP, key every ${min === max ? min : `${min} to ${max}`}${b}`;
}

/** Length of the size field in front of each NAL unit, or 0 when start codes are used (Annex B). */
export type NalLengthSize = 0 | 1 | 2 | 4;

/** Finds the first coded slice of an H.264 or HEVC access unit and returns its header bytes, or null. */
function firstSliceHeader(packet: Uint8Array, lengthSize: NalLengthSize, isSlice: (header: number) => boolean): Uint8Array | null {
  let at = 0;
  while (at < packet.length) {
    let start: number;
    let end: number;
    if (lengthSize === 0) {
      start = packet.indexOf(1, at) + 1;
      if (start === 0) return null;
      if (start < 3 || packet[start - 2] !== 0 || packet[start - 3] !== 0) { at = start; continue; }
      end = start + 1;
    } else {
      let size = 0;
      for (let i = 0; i < lengthSize; i++) size = size * 256 + (packet[at + i] ?? 0);
      start = at + lengthSize;
      end = start + size;
    }
    if (start < packet.length && isSlice(packet[start] ?? 0)) return packet.subarray(start);
    at = end;
  }
  return null;
}

/**
 * True when no other frame of an H.264 stream refers to this one: its first
 * slice has nal_ref_idc 0 (ITU-T H.264, 7.4.1).
 */
export function isDisposableH264(packet: Uint8Array, lengthSize: NalLengthSize): boolean {
  const slice = firstSliceHeader(packet, lengthSize, (header) => (header & 31) >= 1 && (header & 31) <= 5);
  return slice !== null && ((slice[0] ?? 0) >> 5) === 0;
}

/**
 * True when no other frame of the same temporal sub-layer of an HEVC stream
 * refers to this one: even NAL unit types below 16 (ITU-T H.265, table 7-1).
 */
export function isDisposableHevc(packet: Uint8Array, lengthSize: NalLengthSize): boolean {
  const slice = firstSliceHeader(packet, lengthSize, (header) => ((header >> 1) & 63) < 32);
  if (slice === null) return false;
  const unitType = ((slice[0] ?? 0) >> 1) & 63;
  return unitType < 16 && unitType % 2 === 0;
}
