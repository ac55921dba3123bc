import fc from 'fast-check';
import { frameIndex } from '@/core/media/frameIndex';
import { packetTableFrom, type PacketRow } from '@/core/media/packetTable';
import { frameBytes, freeWindow, loadWindow, shorten } from '../codec/window';
import { smallLongGop } from '@/demo/smallClips';
import { editsInWords } from './identify';
import { probeClip } from './probe';
import { StageQueue } from '../rendition/queue';
import { smallClip } from '../testing/testTrial';

const timeBase = { num: 1, den: 12_800 };
const row = (pts: number, key = false): PacketRow => ({
  offset: pts * 10,
  size: 10,
  pts,
  dts: pts,
  key,
  disposable: false,
  type: key ? 'I' : 'P',
});
const table = packetTableFrom([row(0, true), row(2), row(1), row(5, true), row(3), row(4), row(6)]);

test('edit lists are told in words only where they change what is shown', () => {
  const words = (edits: Parameters<typeof editsInWords>[0], cut = 0) =>
    editsInWords(edits, table, timeBase, cut);
  expect(words([{ duration: 100, mediaTime: 1024, rate: 1 }])).toBeNull(); // the delay of reordered frames
  expect(words([])).toBeNull();
  expect(
    words([
      { duration: 50, mediaTime: -1, rate: 1 },
      { duration: 100, mediaTime: 0, rate: 1 },
    ]),
  ).toBe('An edit list begins with a gap.');
  expect(
    words(
      [
        { duration: 50, mediaTime: 0, rate: 1 },
        { duration: 100, mediaTime: 500, rate: 0.5 },
      ],
      3,
    ),
  ).toBe('An edit list joins 2 pieces, changes speed, hides 3 coded frames.');
});

test('the key frame before a frame is coded and shown no later', () => {
  const { row: rowOf, keyRow } = frameIndex(table);
  const keyBefore = (at: number) => keyRow[table.slot[at]!];
  expect([0, 1, 2, 3, 6].map((at) => keyBefore(at))).toEqual([0, 0, 0, 3, 3]);
  expect([4, 5].map((at) => keyBefore(at))).toEqual([0, 0]); // shown before the key frame they are coded behind: an open group
  expect([...rowOf]).toEqual([0, 2, 1, 4, 5, 3, 6]);
});

test('every slot is found at the packet that shows it', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 0, max: 500 }), { minLength: 1, maxLength: 60 }),
      (times) => {
        const any = packetTableFrom(times.map((time) => row(time)));
        return [...frameIndex(any).row].every((at, slot) => any.slot[at] === slot);
      },
    ),
  );
});

test('a window ends before a key frame, may be shortened, and begins again without a gap', async () => {
  const path = await smallClip(smallLongGop);
  const { packets, setup } = await probeClip(path);
  const window = await loadWindow({ path, setup, packets }, 60);
  expect(window.packets).toHaveLength(48); // two groups of 24
  expect(window.period).toBe(48);
  expect(window.packets[5]!.size).toBe(packets.size[5]);
  const short = shorten(window, 30);
  expect([short.packets.length, short.period]).toEqual([24, 24]);
  expect(shorten(window, 500).packets).toHaveLength(48);
  freeWindow(window);
  await expect(loadWindow({ path: `${path}.none`, setup, packets }, 5)).rejects.toThrow('is not there');
});

test.each([
  ['4:2:0', 8, 1.5],
  ['4:2:2', 10, 4],
  ['4:4:4', 12, 6],
  ['none', 8, 1],
])('a decoded frame of %s at %i bits takes %f bytes a pixel', (chroma, bitDepth, bytes) => {
  expect(frameBytes({ width: 100, height: 10, bitDepth, chroma })).toBe(1000 * bytes);
});

test('a queue between stages keeps order, holds the faster one back, and lets all go at its end', async () => {
  const queue = new StageQueue<number>(2);
  const put: number[] = [];
  const producer = (async () => {
    for (let number = 0; number < 6; number++) {
      await queue.put(number);
      put.push(number);
    }
    queue.end();
  })();
  await new Promise(setImmediate);
  expect(put).toEqual([0, 1]); // full
  const taken: number[] = [];
  for (let number = await queue.take(); number !== null; number = await queue.take()) taken.push(number);
  await producer;
  expect(taken).toEqual([0, 1, 2, 3, 4, 5]);
  expect(await queue.take()).toBeNull();
  const waiting = new StageQueue<number>(1);
  const taker = waiting.take();
  waiting.end();
  expect(await taker).toBeNull();
});
