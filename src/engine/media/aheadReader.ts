import type { PacketTable } from '@/core/media/packetTable';
import type { BytesReader } from './plainReader';

/** Packets that are asked for, each by a lane of its own. */
interface UnderWay {
  readonly lane: BytesReader;
  readonly data: Promise<Buffer>;
}

/**
 * Reads a clip's packets in their order with several requests under way, as a player's reader may: while one packet is
 * waited for, those behind it are asked for already. After a jump it asks for one alone, until the next follows.
 * What was asked for and is jumped over is read in vain.
 */
export class AheadReader implements BytesReader {
  /** The first row at each place: of a wrapped stream several may begin in one unit. */
  private readonly rowAt = new Map<number, number>();
  private readonly asked = new Map<number, UnderWay>();
  private readonly free: BytesReader[];
  /** The lane whose bytes were given out last: they are valid until the next read. */
  private given: BytesReader | null = null;
  private last = -2;

  /** @param lanes readers of the same file: one for each request under way, and one for the bytes that were given out */
  constructor(
    private readonly table: PacketTable,
    private readonly lanes: readonly BytesReader[],
  ) {
    this.free = [...lanes];
    for (let row = table.length - 1; row >= 0; row--) this.rowAt.set(table.offset[row] as number, row);
  }

  private get underWay(): number {
    return this.lanes.length - 1;
  }

  /** @throws what a lane throws, and an error where the bytes are no packet's */
  async read(offset: number, bytes: number): Promise<Buffer> {
    if (this.given) this.free.push(this.given);
    this.given = null;
    const row = this.rowOf(offset, bytes);
    if (row === null) throw new RangeError('These bytes are no packet.');
    const ahead = row === this.last + 1 ? this.underWay : 1;
    this.last = row;
    this.abandon(row, row + ahead);
    // There is a free one: the lane of the bytes that were given out has come back.
    const own = this.asked.get(row) ?? this.ask(row, this.free.pop() as BytesReader);
    this.asked.delete(row);
    for (let next = row + 1; next < Math.min(row + ahead, this.table.length); next++) {
      if (this.asked.has(next)) continue;
      const lane = this.free.pop();
      if (!lane) break;
      this.asked.set(next, this.ask(next, lane));
    }
    try {
      return await own.data;
    } finally {
      this.given = own.lane;
    }
  }

  /** The row of these bytes, or of several the one that follows. */
  private rowOf(offset: number, bytes: number): number | null {
    const { offset: offsets, size } = this.table;
    const isIt = (row: number) => offsets[row] === offset && size[row] === bytes;
    if (isIt(this.last + 1)) return this.last + 1;
    let row = this.rowAt.get(offset) ?? this.table.length;
    while (offsets[row] === offset && !isIt(row)) row++;
    return isIt(row) ? row : null;
  }

  private ask(row: number, lane: BytesReader): UnderWay {
    const data = lane.read(this.table.offset[row] as number, this.table.size[row] as number);
    // Who comes to it hears of its failure; nobody may.
    data.catch(() => undefined);
    return { lane, data };
  }

  /** Gives up what lies outside of some rows; its lanes are free once they have ended. */
  private abandon(from: number, to: number): void {
    for (const [row, { lane, data }] of this.asked) {
      if (row >= from && row < to) continue;
      this.asked.delete(row);
      const done = () => this.free.push(lane);
      data.then(done, done);
    }
  }

  async close(): Promise<void> {
    await Promise.all([...this.asked.values()].map(({ data }) => data.catch(() => undefined)));
    await Promise.all(this.lanes.map((lane) => lane.close()));
  }
}

/** A reader of a clip with so many requests under way. @param openLane opens one more reader of its file */
export async function readerOf(
  table: PacketTable,
  underWay: number,
  openLane: () => Promise<BytesReader>,
): Promise<BytesReader> {
  if (underWay <= 1) return openLane();
  return new AheadReader(table, await Promise.all(Array.from({ length: underWay + 1 }, openLane)));
}
