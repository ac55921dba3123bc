import type { FileHandle } from 'node:fs/promises';
import { withoutClockBreaks, withShownTimes, type PacketRow } from '@/core/media/packetTable';
import {
  transportPackets,
  unwrap,
  UnitMap,
  wrappedPlaces,
  type WrappedPlace,
  type Wrapping,
} from '@/core/media/wrapping';
import { greatest } from '@/core/stats/extremes';
import { openInPlace } from '../inPlace';

/** Bytes of a file's head in which its packets are looked for. */
const headBytes = 8_192;
/** Bytes read at once while units are found. */
const blockBytes = 4 * 2 ** 20;

async function opened<T>(path: string, work: (handle: FileHandle) => Promise<T>): Promise<T> {
  const handle = await openInPlace(path);
  try {
    return await work(handle);
  } finally {
    await handle.close();
  }
}

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
  return opened(path, async (handle) => {
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

/** Finds where the units of a wrapped stream lie. @throws the system's error when the file cannot be read */
function mapUnits(path: string, wrapping: Wrapping): Promise<UnitMap> {
  return opened(path, async (handle) => {
    const map = new UnitMap(wrapping);
    const block = Buffer.alloc(blockBytes);
    let kept = 0;
    for (let at = 0; ;) {
      const { bytesRead } = await handle.read(block, kept, blockBytes - kept, at);
      const held = block.subarray(0, kept + bytesRead);
      at += bytesRead;
      const isLast = bytesRead === 0;
      const taken = map.add(held, isLast);
      if (isLast) return map;
      held.copyWithin(0, taken);
      kept = held.length - taken;
    }
  });
}

/**
 * Rows of a wrapped stream with the places that must be read for them.
 * @param codec as the codec library spells it
 * @param rows with the places of the units that they begin in, as the demultiplexer told them
 * @returns null where the places cannot be found, or a sample does not lie at its own
 */
export async function unwrappedRows(
  path: string,
  wrapping: Wrapping,
  codec: string,
  rows: readonly PacketRow[],
  samples: Samples,
): Promise<PacketRow[] | null> {
  return opened(path, async (handle) => {
    const places = wrappedPlaces(
      await mapUnits(path, wrapping),
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
