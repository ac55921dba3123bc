import type { FileHandle } from 'node:fs/promises';
import { UnitRows } from '@/core/media/unitRows';
import { withoutClockBreaks, withShownTimes, type PacketRow } from '@/core/media/packetTable';
import {
  transportPackets,
  unwrap,
  UnitMap,
  wrappedPlaces,
  type SoundUnits,
  type WrappedPlace,
  type Wrapping,
} from '@/core/media/wrapping';
import { greatest } from '@/core/stats/extremes';
import { inPlace } from '../inPlace';

/** Bytes of a file's head in which its packets are looked for. */
const headBytes = 8_192;
/** Bytes read at once while units are found. */
const blockBytes = 4 * 2 ** 20;

/**
 * How a container wraps a stream; null where its frames lie whole.
 * @param container the demultiplexer's name
 * @param streamId as the demultiplexer numbers it: a packet identifier, or the start code of its units
 */
export async function wrappingOf(
  path: string,
  container: string,
  streamId: number,
): Promise<Wrapping | null> {
  if (container === 'mpeg') return { kind: 'program', streamId: streamId & 0xff };
  if (container !== 'mpegts') return null;
  return inPlace(path, async (handle) => {
    const head = Buffer.alloc(headBytes);
    const { bytesRead } = await handle.read(head, 0, headBytes, 0);
    const packets = transportPackets(head.subarray(0, bytesRead)) ?? { packetBytes: 188, lead: 0 };
    return { kind: 'transport', ...packets, pid: streamId };
  });
}

/** A few frames as the demultiplexer gave them: the first ones, and some of all others. */
export class Samples {
  private readonly kept: { row: number; data: Buffer }[] = [];
  private static readonly first = 8;
  private static readonly every = 512;
  private static readonly most = 64;

  /** A frame begins with this, which proves its place. */
  note(row: number, data: Buffer | null): void {
    const wanted = row < Samples.first || row % Samples.every === 0;
    if (data && wanted && this.kept.length < Samples.most) this.kept.push({ row, data: Buffer.from(data) });
  }

  get all(): readonly { readonly row: number; readonly data: Buffer }[] {
    return this.kept;
  }
}

/** Room in front of a block for what was left of the one before: a unit of a program stream is no longer. */
const roomBefore = 2 ** 17;

/** Gives a file block after block, the next one being read meanwhile. @param each see `EssenceWalk` for what it gives back; null: no more is wanted */
async function inBlocks(
  path: string,
  each: (bytes: Uint8Array, isLast: boolean) => number | null,
  onProgress: (bytes: number) => void = () => undefined,
): Promise<void> {
  await inPlace(path, async (handle) => {
    const { size } = await handle.stat();
    // A small file needs no more memory than it has bytes.
    const bytesAtOnce = Math.max(1, Math.min(blockBytes, size));
    const memory = [0, 1].map(() => Buffer.allocUnsafe(roomBefore + bytesAtOnce)) as [Buffer, Buffer];
    const read = (turn: number, at: number) =>
      handle.read(memory[turn % 2] as Buffer, roomBefore, bytesAtOnce, at);
    let left = 0;
    let at = 0;
    let next = read(0, 0);
    for (let turn = 0; ; turn++) {
      const { bytesRead } = await next;
      at += bytesRead;
      const isLast = bytesRead === 0;
      if (!isLast) next = read(turn + 1, at);
      const block = (memory[turn % 2] as Buffer).subarray(roomBefore - left, roomBefore + bytesRead);
      const taken = each(block, isLast);
      onProgress(at);
      if (isLast || taken === null) {
        if (!isLast) await next;
        return;
      }
      left = block.length - taken;
      block.copy(memory[(turn + 1) % 2] as Buffer, roomBefore - left, taken);
    }
  });
}

/** Finds where the units of a wrapped stream lie, and of its sound. @throws the system's error when the file cannot be read */
async function mapUnits(path: string, wrapping: Wrapping, sound: SoundUnits | null): Promise<UnitMap> {
  sound?.clear();
  const map = new UnitMap(wrapping, sound);
  await inBlocks(path, (bytes, isLast) => map.add(bytes, isLast));
  return map;
}

/**
 * Rows of a wrapped stream by what its units begin with, where each holds a frame: the first frames, as a demultiplexer took them out,
 * prove it.
 * @param sound units of sound, found in the same walk
 * @returns null where they do not, or frames of the codec cannot be told so
 */
export async function rowsByUnits(
  path: string,
  wrapping: Wrapping,
  codec: { readonly name: string; readonly extradata: Uint8Array },
  proof: readonly PacketRow[],
  onProgress: (bytes: number) => void,
  sound: SoundUnits | null = null,
): Promise<PacketRow[] | null> {
  const found = UnitRows.of(wrapping, codec.name, codec.extradata, sound);
  if (!found || proof.length === 0) return null;
  const { rows } = found;
  let isProved = false;
  await inBlocks(
    path,
    (bytes, isLast) => {
      const taken = found.add(bytes, isLast);
      if (!isProved && (isLast || rows.length > proof.length))
        isProved = proof.every((row, at) => isSame(row, rows[at]));
      return found.holds && (isProved || rows.length <= proof.length) ? taken : null;
    },
    onProgress,
  );
  if (!found.holds || !isProved) return null;
  return withoutClockBreaks(rows).map((row, at) => ({
    ...row,
    size: (rows[at + 1]?.offset ?? found.endsAt) - row.offset,
    inside: { skip: 0, bytes: row.size },
  }));
}

const isSame = (one: PacketRow, other: PacketRow | undefined): boolean =>
  other !== undefined &&
  (['offset', 'size', 'pts', 'dts', 'key', 'disposable', 'type'] as const).every(
    (name) => one[name] === other[name],
  );

/**
 * Rows of a wrapped stream with the places that must be read for them.
 * @param codec as the codec library spells it
 * @param rows with the places of the units that they begin in, as the demultiplexer told them
 * @param sound units of sound, found in the same walk
 * @returns null where the places cannot be found, or a sample does not lie at its own
 */
export async function unwrappedRows(
  path: string,
  wrapping: Wrapping,
  codec: string,
  rows: readonly PacketRow[],
  sound: SoundUnits | null,
  samples: Samples,
): Promise<PacketRow[] | null> {
  return inPlace(path, async (handle) => {
    const places = wrappedPlaces(
      await mapUnits(path, wrapping, sound),
      rows.map(({ offset, size }) => ({ place: offset, bytes: size })),
    );
    const shown = /^mpeg[12]video$/.test(codec) ? withShownTimes(rows) : rows;
    if (!places || !(await areThere(handle, wrapping, places, rows, samples))) return null;
    return withoutClockBreaks(shown).map((row, at) => {
      const { offset, bytes, skip } = places[at] as WrappedPlace;
      return { ...row, offset, size: bytes, inside: { skip, bytes: row.size } };
    });
  });
}

async function areThere(
  handle: FileHandle,
  wrapping: Wrapping,
  places: readonly WrappedPlace[],
  rows: readonly PacketRow[],
  samples: Samples,
): Promise<boolean> {
  const read = Buffer.alloc(
    greatest(
      samples.all.map(({ row }) => places[row]?.bytes ?? 0),
      0,
    ),
  );
  for (const { row, data } of samples.all) {
    const place = places[row];
    if (!place) return false;
    const { bytesRead } = await handle.read(read, 0, place.bytes, place.offset);
    const frame = unwrap(wrapping, read.subarray(0, bytesRead), place.skip, rows[row]?.size ?? 0);
    if (!data.equals(frame.subarray(0, data.length))) return false;
  }
  return true;
}
