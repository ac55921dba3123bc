import type { Frame, Packet } from 'node-av/lib';
import { standInDevices, supportFor, type StandInDevice } from '@/core/decode/standIns';
import { smallLongGop } from '@/demo/smallClips';
import { assertFits, Beforehand, type WantedFrames } from './beforehand';
import { StandInDecoder, StandInEngine, standInUnits } from './standInDecoder';
import { packetOf } from './decoder';
import { testMedia, type TestMedia } from '../testing/testTimelineRun';
import { smallClip } from '../testing/testTrial';
import { VirtualClock } from '../testing/virtualClock';

const neap = standInDevices.find(({ id }) => id === 'stand-in-neap') as StandInDevice;
const frameUs = 2_000;

let media: TestMedia;
beforeAll(async () => {
  media = await testMedia(await smallClip(smallLongGop));
});

/** A stream at an engine whose pictures are nowhere. */
const streamOf = (engine: StandInEngine, heldBack = 0) =>
  new StandInDecoder({
    device: neap,
    units: { ...standInUnits(engine.clock), decode: engine },
    scaleUs: null,
    readBackUs: 0,
    frameUs,
    heldBack,
    pictures: { pictureOf: () => undefined },
  });

const packet = (slot: number): Packet => packetOf(Buffer.alloc(1), slot, true);

/** Sends frames in decode order and notes which came when, µs from the first packet. */
async function decoded(clock: VirtualClock, decoder: StandInDecoder, order: readonly number[]) {
  const came: [frame: number, atUs: number][] = [];
  const take = async () => {
    for (let frame: Frame | null = await decoder.receive(); frame; frame = await decoder.receive()) {
      came.push([Number(frame.pts), clock.now()]);
      frame.free();
    }
  };
  for (const slot of order) {
    const sent = packet(slot);
    await decoder.send(sent);
    sent.free();
    await take();
  }
  await decoder.send(null);
  await take();
  return came;
}

test('a stand-in gives frames in display order, at the times of its model after one start', async () => {
  const clock = new VirtualClock();
  const came = await clock.run(decoded(clock, streamOf(new StandInEngine(clock), 1), [0, 2, 1, 4, 3]));
  expect(came.map(([frame]) => frame)).toEqual([0, 1, 2, 3, 4]);
  // Each waits until one more has been handed over; work goes on one frame after the other meanwhile.
  expect(came[0]?.[1]).toBe(neap.startUs + frameUs);
  expect(came.at(-1)?.[1]).toBe(neap.startUs + 5 * frameUs);
});

test('pictures come to memory one at a time, whole or as the device has scaled them before, beside the decoding of others', async () => {
  const frames = Array.from({ length: 40 }, (_, frame) => frame);
  const last = async (scaleUs: number | null, readBackUs: number) => {
    const clock = new VirtualClock();
    const decoder = new StandInDecoder({
      device: neap,
      units: standInUnits(clock),
      scaleUs,
      readBackUs,
      frameUs,
      heldBack: 4,
      pictures: { pictureOf: () => undefined },
    });
    const came = await clock.run(decoded(clock, decoder, frames));
    expect(decoder).toMatchObject({ given: 40, onDevice: 40, scaled: scaleUs === null ? 0 : 40 });
    return came.at(-1)![1] - neap.startUs;
  };
  // Less than decoding: only the last one is waited for.
  expect(await last(null, frameUs / 2)).toBeCloseTo(40.5 * frameUs, -2);
  // More: every one of them is, behind the first decoding.
  expect(await last(null, 3 * frameUs)).toBeCloseTo(frameUs + 40 * 3 * frameUs, -2);
  // Scaled, less comes; the scaling itself goes on beside the decoding of the next.
  expect(await last(frameUs / 2, frameUs / 4)).toBeCloseTo(40.75 * frameUs, -2);
});

test('streams queue at the one engine: two of them take twice as long', async () => {
  const frames = Array.from({ length: 50 }, (_, frame) => frame);
  const took = async (streams: number) => {
    const clock = new VirtualClock();
    const engine = new StandInEngine(clock);
    await clock.run(
      Promise.all(Array.from({ length: streams }, () => decoded(clock, streamOf(engine), frames))),
    );
    return clock.now();
  };
  expect(await took(1)).toBe(neap.startUs + 50 * frameUs);
  expect(await took(2)).toBe(2 * (neap.startUs + 50 * frameUs));
});

test('a wait that ends late costs no rate, and idling gains none', async () => {
  let now = 0;
  const lateUs = 700;
  const engine = new StandInEngine({
    now: () => now,
    sleep: (us) => {
      now += us + lateUs;
      return Promise.resolve();
    },
    turn: () => Promise.resolve(),
  });
  for (let frame = 0; frame < 100; frame++) await engine.until(engine.admit(frameUs));
  expect(now).toBe(100 * frameUs + lateUs);
  now += 1e6;
  // Only the lateness of the last wait is made up for.
  expect(engine.admit(frameUs)).toBe(now - lateUs + frameUs);
  expect(engine.admit(frameUs)).toBe(now - lateUs + 2 * frameUs);
});

describe('pictures decoded before', () => {
  const wanted = (frames: readonly number[]): WantedFrames => ({ ...media.spec, frames: new Set(frames) });

  test('are those asked for, whole, and told while they come', async () => {
    const pictures = new Beforehand();
    const told: string[] = [];
    await pictures.decode(new Map([['m', wanted([30, 5, 6])]]), (done, all) => told.push(`${done}/${all}`));
    const of = pictures.of('m');
    expect([5, 6, 30].map((frame) => Number(of.pictureOf(frame)?.pts))).toEqual([5, 6, 30]);
    expect(of.pictureOf(5)?.width).toBe(480);
    expect(of.pictureOf(7)).toBeUndefined();
    expect(pictures.of('another').pictureOf(5)).toBeUndefined();
    expect(told).toEqual(['1/3', '2/3', '3/3']);
    expect(pictures.bytes).toBe(3 * 480 * 270 * 1.5);
    pictures.free();
  });

  test('that do not fit are refused with what would', () => {
    const clip = wanted(Array.from({ length: 100 }, (_, frame) => frame));
    const one = 480 * 270 * 1.5;
    expect(() => assertFits([clip], 100 * one)).not.toThrow();
    expect(() => assertFits([clip], 40 * one)).toThrow(/100 frames are .*of 40 frames at most/);
  });

  test('are given by the decoder under the number that was asked for; a frame that decoding refused is refused', async () => {
    const clock = new VirtualClock();
    const pictures = new Beforehand();
    await pictures.decode(new Map([['m', wanted([0, 1])]]), () => undefined);
    const of = pictures.of('m');
    const decoder = new StandInDecoder({
      device: neap,
      units: standInUnits(clock),
      scaleUs: null,
      readBackUs: 0,
      frameUs,
      heldBack: 0,
      pictures: { pictureOf: (frame) => (frame === 1 ? null : of.pictureOf(frame)) },
    });
    expect((await clock.run(decoded(clock, decoder, [0, 1]))).map(([frame]) => frame)).toEqual([0]);
    expect(decoder.refusals).toMatchObject({ count: 1, failure: { refusal: 'damage' } });
    expect(decoder).toMatchObject({ given: 1, onDevice: 1 });
    pictures.free();
  });
});

test('the older stand-in takes no 10-bit media, the newer one does', () => {
  const format = { ...media.probed.format, bitDepth: 10 };
  expect(standInDevices.map((device) => supportFor(device, format) !== null)).toEqual([false, true]);
});
