import type { Packet } from 'node-av/lib';
import type { Format } from '@/core/media/format';
import { isKey, type PacketTable } from '@/core/media/packetTable';
import { EngineError } from '../errors';
import { packetOfRow } from './decoder';
import { plainReader, type ClipSource } from '../media/plainReader';

/** Packets of a clip held in memory, in decode order from its first on. They may be sent round after round. */
export interface PacketWindow {
  readonly packets: readonly Packet[];
  readonly table: PacketTable;
  /** Slots after which the next round begins: one more than the last of the window. */
  readonly period: number;
}

/** Coded bytes that are held at most. */
const mostBytes = 2 ** 30;

/** Bytes of one decoded frame, about: two bytes a sample beyond 8 bits. */
export function frameBytes({
  width,
  height,
  bitDepth,
  chroma,
}: Pick<Format, 'width' | 'height' | 'bitDepth' | 'chroma'>): number {
  const samples =
    chroma === '4:2:0' || chroma === '4:1:1'
      ? 1.5
      : chroma === '4:2:2'
        ? 2
        : chroma === 'none' || chroma === 'Bayer'
          ? 1
          : 3;
  return width * height * samples * (bitDepth > 16 ? 4 : bitDepth > 8 ? 2 : 1);
}

/**
 * Reads the first packets of a clip. The window ends before a key frame where one is near.
 * @param mostFrames frames at most
 * @throws EngineError when the file cannot be read
 */
export async function loadWindow(
  clip: Pick<ClipSource, 'path' | 'setup' | 'packets'>,
  mostFrames: number,
): Promise<PacketWindow> {
  const { path, packets: table } = clip;
  const file = await plainReader(clip);
  const packets: Packet[] = [];
  try {
    const length = windowLength(table, mostFrames);
    for (let row = 0; row < length; row++) {
      const data = await file.read(table.offset[row] as number, table.size[row] as number);
      if (data.length < (table.size[row] as number))
        throw new EngineError('ends-before-frame', { path, row });
      packets.push(packetOfRow(clip, row, data));
    }
    return windowOf(packets, table);
  } finally {
    await file.close();
  }
}

/** A window made of the first packets of another, which goes on owning them. */
export function shorten({ packets, table }: PacketWindow, mostFrames: number): PacketWindow {
  return windowOf(packets.slice(0, Math.min(packets.length, windowLength(table, mostFrames))), table);
}

function windowOf(packets: readonly Packet[], table: PacketTable): PacketWindow {
  let last = 0;
  for (let row = 0; row < packets.length; row++) last = Math.max(last, table.slot[row] ?? 0);
  return { packets, table, period: last + 1 };
}

function windowLength(table: PacketTable, mostFrames: number): number {
  let bytes = 0;
  let length = 0;
  while (
    length < Math.min(table.length, mostFrames) &&
    (length === 0 || bytes + (table.size[length] ?? 0) <= mostBytes)
  )
    bytes += table.size[length++] ?? 0;
  if (length === table.length) return length;
  for (let at = length; at > length / 2; at--) if (isKey(table, at)) return at;
  return length;
}

export function freeWindow({ packets }: PacketWindow): void {
  for (const packet of packets) packet.free();
}
