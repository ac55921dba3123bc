import { frameTypes, isKey, type PacketTable } from './packetTable';
import { greatest, least } from '../stats/extremes';

/** How the frames of a clip depend on each other. */
export interface FrameStructure {
  /** True when every frame decodes by itself. */
  readonly intra: boolean;
  /** Frames from one key frame to the next; null when intra or with one key frame only. */
  readonly keyInterval: { readonly min: number; readonly mean: number; readonly max: number } | null;
  readonly hasBFrames: boolean;
  /** How many frames a decoder must hold back to put frames in display order. */
  readonly reorderDepth: number;
  /** Frames shown before a key frame are coded behind it and may refer across it; absent in structures noted before this was read. */
  readonly openGop?: boolean;
  /** Earlier pictures that a frame may refer to; null where the codec does not say. */
  readonly referenceDepth?: number | null;
}

/**
 * Reads the frame structure off a packet table. Intervals are counted in display
 * order. A group is open when frames coded behind its key frame are shown before it.
 * @param referenceDepth as the stream's parameter sets say
 */
export function frameStructure(table: PacketTable, referenceDepth: number | null = null): FrameStructure {
  const keySlots: number[] = [];
  let reorderDepth = 0;
  let openGop = false;
  let lastKeySlot = 0;
  for (let i = 0; i < table.length; i++) {
    const slot = table.slot[i] ?? 0;
    if (isKey(table, i)) {
      keySlots.push(slot);
      lastKeySlot = slot;
    } else if (slot < lastKeySlot) openGop = true;
    reorderDepth = Math.max(reorderDepth, i - slot);
  }
  keySlots.sort((a, b) => a - b);
  const intervals = keySlots.slice(1).map((slot, i) => slot - (keySlots[i] ?? 0));
  const intra = table.length > 0 && keySlots.length === table.length;
  const bIndex = frameTypes.indexOf('B');
  return {
    intra,
    keyInterval:
      intra || intervals.length === 0
        ? null
        : {
            min: least(intervals),
            mean: intervals.reduce((sum, value) => sum + value, 0) / intervals.length,
            max: greatest(intervals, 0),
          },
    hasBFrames: reorderDepth > 0 || table.type.includes(bIndex),
    reorderDepth,
    openGop: !intra && openGop,
    referenceDepth: intra ? 0 : referenceDepth,
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

/** The same in as few words as a table has room for: "Intra", "GOP 24, B", "one key frame". */
export function frameStructureShort({ intra, keyInterval, hasBFrames }: FrameStructure): string {
  if (intra) return 'Intra';
  const b = hasBFrames ? ', B' : '';
  if (!keyInterval) return `one key frame${b}`;
  const { min, max } = keyInterval;
  return `GOP ${min === max ? min : `${min}–${max}`}${b}`;
}
