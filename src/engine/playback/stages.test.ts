import { readFile } from 'node:fs/promises';
import { readFrameCode } from '@/core/media/frameCode';
import { rational } from '@/core/time/rational';
import { smallIntra, smallLongGop } from '@/demo/smallClips';
import { ColdFile } from '../media/coldFile';
import { probeClip } from '../media/probe';
import { Decoder, packetOf } from '../codec/decoder';
import { Processor } from '../codec/processor';
import type { PlaybackScale } from './spec';
import { smallClip } from '../testing/testTrial';

async function decodeAll(
  path: string,
  threads: number,
  lowDelay: boolean,
  onFrame: (slot: number, frame: Awaited<ReturnType<Decoder['receive']>>) => Promise<void> | void,
): Promise<number[]> {
  const { packets, setup } = await probeClip(path);
  const file = await ColdFile.open(path, Math.max(...packets.size));
  const decoder = await Decoder.open(setup, { threads, lowDelay, rate: rational(24) });
  const slots: number[] = [];
  const drain = async () => {
    for (let frame = await decoder.receive(); frame; frame = await decoder.receive()) {
      slots.push(Number(frame.pts));
      await onFrame(Number(frame.pts), frame);
      frame.free();
    }
  };
  for (let row = 0; row < packets.length; row++) {
    const packet = packetOf(
      await file.read(packets.offset[row]!, packets.size[row]!),
      packets.slot[row]!,
      row === 0,
    );
    await decoder.send(packet);
    packet.free();
    await drain();
  }
  await decoder.send(null);
  await drain();
  decoder.close();
  await file.close();
  return slots;
}

test.each([
  [1, true],
  [2, false],
])(
  'frames of long-GOP media leave the decoder in display order under their slots (%i threads)',
  async (threads, lowDelay) => {
    const slots = await decodeAll(await smallClip(smallLongGop), threads, lowDelay, () => undefined);
    expect(slots).toEqual(Array.from({ length: smallLongGop.frames }, (_, slot) => slot));
  },
);

test('pictures have the raster of their scale, and their frame number can be read at each', async () => {
  const processors = {
    full: new Processor(480, 270, 'full'),
    half: new Processor(480, 270, 'half'),
    quarter: new Processor(480, 270, 'quarter'),
  };
  const seen: string[] = [];
  await decodeAll(await smallClip(smallIntra), 1, true, async (slot, frame) => {
    if (slot % 60 !== 0 || !frame) return;
    for (const scale of Object.keys(processors) as PlaybackScale[]) {
      const picture = await processors[scale].process(frame);
      seen.push(`${scale} ${picture.width}x${picture.height}`);
      if (scale !== 'quarter')
        expect(
          readFrameCode(
            picture.width,
            picture.height,
            (x, y) => picture.pixels[y * picture.stride + x * 4 + 1]!,
          ),
        ).toBe(slot);
      processors[scale].release(picture);
    }
  });
  expect([...new Set(seen)]).toEqual(['full 480x270', 'half 240x135', 'quarter 120x68']);
  Object.values(processors).forEach((processor) => processor.close());
});

test('released pictures are used again, held ones are not', async () => {
  const processor = new Processor(480, 270, 'half');
  await decodeAll(await smallClip(smallIntra), 1, true, async (slot, frame) => {
    if (slot !== 0 || !frame) return;
    const first = await processor.process(frame);
    const second = await processor.process(frame);
    expect(second).not.toBe(first);
    processor.release(first);
    expect(await processor.process(frame)).toBe(first);
  });
  processor.close();
});

test('data that is no frame is done without and what follows decodes; an unknown codec is refused before anything runs', async () => {
  const path = await smallClip(smallLongGop);
  const { setup, packets } = await probeClip(path);
  const bytes = await readFile(path);
  const decoder = await Decoder.open(setup, { threads: 1, lowDelay: true, rate: rational(25) });
  expect(await decoder.send(packetOf(Buffer.alloc(400, 7), 17, true))).toBe(true);
  expect([decoder.refusals.take(), decoder.refusals.take(), await decoder.receive()]).toEqual([
    'damage',
    null,
    null,
  ]);
  await decoder.send(
    packetOf(bytes.subarray(packets.offset[0], packets.offset[0]! + packets.size[0]!), 18, true),
  );
  await decoder.send(null);
  const frame = await decoder.receive();
  expect(frame?.pts).toBe(18n);
  frame?.free();
  decoder.close();
  await expect(
    Decoder.open({ ...setup, codecId: 0 }, { threads: 1, lowDelay: true, rate: rational(25) }),
  ).rejects.toThrow('no decoder for this clip');
});
