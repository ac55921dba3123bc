import { packetTableFrom } from '@/core/media/packetTable';
import { AheadReader, readerOf } from './aheadReader';
import type { BytesReader } from './plainReader';

const packets = 40;
const size = 100;
const table = packetTableFrom(
  Array.from({ length: packets }, (_, row) => ({
    offset: 1_000 + row * size,
    size,
    pts: row,
    dts: row,
    type: 'I' as const,
    key: true,
    disposable: false,
  })),
);
const offsetOf = (row: number) => table.offset[row] as number;

/** A file whose reads end when they are let go, and which knows how many are under way. */
class HeldFile {
  readonly asked: number[] = [];
  private readonly waiting = new Map<
    number,
    { resolve: (data: Buffer) => void; reject: (error: Error) => void }
  >();
  most = 0;
  closed = 0;

  lane(): BytesReader {
    return {
      read: (offset, bytes) => {
        const row = (offset - 1_000) / size;
        this.asked.push(row);
        const data = new Promise<Buffer>((resolve, reject) => this.waiting.set(row, { resolve, reject }));
        this.most = Math.max(this.most, this.waiting.size);
        return data.then((found) => found.subarray(0, bytes));
      },
      close: () => {
        this.closed++;
        return Promise.resolve();
      },
    };
  }

  letGo(row: number): void {
    this.waiting.get(row)?.resolve(Buffer.alloc(size, row));
    this.waiting.delete(row);
  }

  fail(row: number): void {
    this.waiting.get(row)?.reject(new Error(`row ${row}`));
    this.waiting.delete(row);
  }
}

const turns = () => new Promise((resolve) => setImmediate(resolve));

async function reading(underWay: number) {
  const file = new HeldFile();
  const reader = await readerOf(table, underWay, () => Promise.resolve(file.lane()));
  /** Reads one packet, with what the file has let go before and while it waits. */
  const read = async (row: number) => {
    const data = reader.read(offsetOf(row), size);
    await turns();
    file.letGo(row);
    return (await data)[0];
  };
  return { file, reader, read };
}

test('packets come in the order in which they are asked for, with so many under way and no more', async () => {
  const { file, read } = await reading(4);
  const got: (number | undefined)[] = [];
  for (let row = 0; row < packets; row++) got.push(await read(row));
  expect(got).toEqual(Array.from({ length: packets }, (_, row) => row));
  expect(file.most).toBe(4);
  // Each is read once.
  expect(file.asked.toSorted((a, b) => a - b)).toEqual(Array.from({ length: packets }, (_, row) => row));
});

test('one request under way is the reader itself: nothing is read ahead', async () => {
  const { file, reader, read } = await reading(1);
  expect(reader).not.toBeInstanceOf(AheadReader);
  for (const row of [0, 1, 2]) await read(row);
  expect(file.most).toBe(1);
  expect(file.asked).toEqual([0, 1, 2]);
});

test('after a jump one is asked for alone, until the next follows; what was asked for ahead is given up', async () => {
  const { file, read } = await reading(3);
  for (const row of [0, 1]) await read(row);
  expect(file.asked).toEqual([0, 1, 2, 3]);
  expect(await read(20)).toBe(20);
  expect(file.asked).toEqual([0, 1, 2, 3, 20]);
  expect(await read(21)).toBe(21);
  // What was given up has its lanes until it has ended; the others are asked by.
  expect(file.asked).toEqual([0, 1, 2, 3, 20, 21, 22]);
  file.letGo(2);
  file.letGo(3);
  await turns();
  expect(await read(22)).toBe(22);
  expect(file.asked).toEqual([0, 1, 2, 3, 20, 21, 22, 23, 24]);
});

test('what fails ahead is told to who comes to it, and to nobody else', async () => {
  const { file, reader, read } = await reading(3);
  await read(0);
  await read(1);
  file.fail(2);
  await turns();
  await expect(reader.read(offsetOf(2), size)).rejects.toThrow('row 2');
  // After a jump the failure of what was given up concerns nobody.
  file.fail(3);
  expect(await read(9)).toBe(9);
});

test('it closes all its lanes, with requests under way', async () => {
  const { file, reader, read } = await reading(3);
  await read(0);
  await read(1);
  const closed = reader.close();
  file.letGo(2);
  file.letGo(3);
  await closed;
  expect(file.closed).toBe(4);
});

test('bytes that are no packet are refused', async () => {
  const { reader } = await reading(2);
  await expect(reader.read(1, size)).rejects.toThrow('no packet');
});
