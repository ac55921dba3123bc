import { closeSync, openSync, readSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { soundState } from '@/core/playback/sound';
import { seededRandom } from '@/core/stats/random';
import { sampleAt, wholeClip, type SoundPart } from '@/core/tasks/soundPlan';
import { rational, type Rational } from '@/core/time/rational';
import { probeClip } from '../media/probe';
import { SlotSound } from './slotSound';
import { workOutSound } from './workOutSound';
import { createSoundShared, soundViews } from './soundShared';
import type { SoundTrack } from './trackSound';
import { SoundReader } from '../task/soundMix';
import { toneAt, writeTestMedia, type TestMedia } from '../testing/testMedia';
import { workFolder } from '../testing/testTrial';

const plain = {
  encoder: 'libx264',
  pixelFormat: 'yuv420p',
  frames: 60,
  bFrames: 2,
  options: { preset: 'ultrafast' },
};
const tape = {
  encoder: 'mpeg2video',
  pixelFormat: 'yuv420p',
  width: 352,
  height: 288,
  frames: 60,
  bFrames: 2,
};

/** Containers and codecs, with whether what is decoded is what was encoded, but for rounding. */
const kinds: readonly (readonly [string, TestMedia, boolean])[] = [
  ['pcm.mov', { ...plain, audio: true }, true],
  ['ntsc.mov', { ...plain, rate: [30_000, 1001], audio: true }, true],
  ['flac.mkv', { ...plain, audio: 'flac' }, true],
  ['pcm.avi', { ...tape, encoder: 'mpeg4', audio: true }, true],
  ['pcm.mxf', { ...tape, audio: true }, true],
  ['aac.mp4', { ...plain, audio: 'aac' }, false],
  ['aac.ts', { ...plain, audio: 'aac' }, false],
  ['ac3.m2ts', { ...plain, audio: 'ac3' }, false],
  ['mp2.ts', { ...tape, audio: 'mp2' }, false],
  ['mp2.mpg', { ...tape, audio: 'mp2' }, false],
  ['mp2.vob', { ...tape, audio: 'mp2' }, false],
];

async function made(name: string, media: TestMedia) {
  const path = join(await workFolder(), 'sound', name);
  await writeTestMedia(path, media);
  return path;
}

/** The sound of a file as a scan noted it, with what was read of it. */
async function trackOf(path: string) {
  const { sound, frames, format } = await probeClip(path);
  const reads: { offset: number; bytes: number }[] = [];
  const track: SoundTrack = {
    name: path,
    setup: sound!.setup,
    packets: sound!.packets,
    read: (offset, bytes) => {
      reads.push({ offset, bytes });
      const data = Buffer.alloc(bytes);
      const file = openSync(path, 'r');
      const got = readSync(file, data, 0, bytes, offset);
      closeSync(file);
      return data.subarray(0, got);
    },
  };
  return { track, reads, frames, rate: format.rate };
}

/** The left channel of slots in their order. */
function heard(parts: readonly SoundPart[], rate: Rational, track: SoundTrack, slots: readonly number[]) {
  const sound = new SlotSound(parts, rate, () => track);
  const worked = slots.map((slot) => sound.slot(slot));
  sound.close();
  return {
    left: leftOf(worked.map(({ mix }) => mix)),
    broken: worked.filter(({ isBroken }) => isBroken).length,
    bytes: worked.reduce((sum, { bytes }) => sum + bytes, 0),
  };
}

function leftOf(mixes: readonly Float32Array[]): Float32Array {
  const left = new Float32Array(mixes.reduce((sum, { length }) => sum + length / 2, 0));
  let to = 0;
  for (const mix of mixes) for (let at = 0; at < mix.length; at += 2) left[to++] = mix[at] as number;
  return left;
}

/** How far two lie apart at most, from a sample to another. */
function apart(one: Float32Array, other: (at: number) => number, from: number, to: number): number {
  let most = 0;
  for (let at = from; at < to; at++) most = Math.max(most, Math.abs((one[at] as number) - other(at)));
  return most;
}

const upTo = (slots: number, from = 0) => Array.from({ length: slots - from }, (_, at) => from + at);

test.each(kinds)(
  '%s: every slot has the sound of its time, read by its places alone',
  async (name, media, isExact) => {
    const { track, reads, frames, rate } = await trackOf(await made(name, media));
    const { left, broken, bytes } = heard([wholeClip('m', frames, rate)], rate, track, upTo(frames));
    expect(left.length).toBe(sampleAt(frames, rate));
    expect(broken).toBe(0);
    expect(bytes).toBe(reads.reduce((sum, read) => sum + read.bytes, 0));
    // The end is left out: encoders end where their blocks do.
    const end = left.length - 4_800;
    const loudest = Math.max(...left);
    expect(loudest).toBeGreaterThan(0.45);
    const isSilent = (at: number) => at % 48_000 > 25_000 && at % 48_000 < 46_000;
    let noise = 0;
    for (let at = 0; at < end; at++) if (isSilent(at)) noise = Math.max(noise, Math.abs(left[at] as number));
    expect(noise).toBeLessThan(0.01);
    // In the middle of the tone a sample's delay would show as 0.03.
    expect(apart(left, toneAt, 4_000, 23_000)).toBeLessThan(isExact ? 1e-4 : 0.02);
    if (isExact) expect(apart(left, toneAt, 0, end)).toBeLessThan(1e-4);
  },
);

test('begun anywhere, it is what it is there: alike with what a demultiplexer gives', async () => {
  for (const [name, media] of kinds) {
    const path = await made(`late-${name}`, media);
    const { track, frames, rate } = await trackOf(path);
    const part = { ...wholeClip('m', frames, rate), fromSeconds: 1.25, samples: 24_000 };
    const { left } = heard([part], rate, track, upTo(12));
    expect([name, apart(left, (at) => toneAt(60_000 + at), 500, 11_000) < 0.02]).toEqual([name, true]);
    if (name.endsWith('.mov')) {
      const reader = (await SoundReader.open(path, 1.25))!;
      const demuxed = await reader.take(left.length);
      expect(apart(left, (at) => demuxed[at * 2] as number, 0, left.length)).toBeLessThan(1e-4);
      await reader.close();
    }
  }
});

test('slots that are left out leave the others as they are', async () => {
  const { track, frames, rate } = await trackOf(await made('gaps.mov', { ...plain, audio: true }));
  const parts = [wholeClip('m', frames, rate)];
  const slots = [0, 1, 5, 6, 7, 26, 27, 28, 50, 51];
  const some = heard(parts, rate, track, slots);
  slots.forEach((slot, at) => {
    const one = some.left.subarray(at * 1_920, (at + 1) * 1_920);
    expect([slot, apart(one, (i) => toneAt(slot * 1_920 + i), 0, 1_920) < 1e-4]).toEqual([slot, true]);
  });
});

test('what lies together is read at once, and each byte once; nothing behind the part is read', async () => {
  const { track, reads, frames, rate } = await trackOf(await made('reads.mov', { ...plain, audio: true }));
  const { packets } = track;
  heard([wholeClip('m', frames, rate)], rate, track, upTo(frames));
  expect(reads.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(
    packets.size.reduce((sum, bytes) => sum + bytes, 0),
  );
  expect(reads.length).toBeLessThanOrEqual(packets.length);
  reads.length = 0;
  heard([{ ...wholeClip('m', 10, rate), fromSeconds: 1 }], rate, track, upTo(10));
  const last = [...packets.at].findIndex((at) => at >= 1.4);
  for (const { offset, bytes } of reads)
    expect(offset + bytes).toBeLessThanOrEqual(packets.offset[last] as number);
});

test('parts that sound together are mixed, faded as the plan says, and never louder than full', async () => {
  const { track, frames, rate } = await trackOf(await made('mix.mov', { ...plain, audio: true }));
  const whole = wholeClip('m', frames, rate);
  const twice = heard([whole, { ...whole }], rate, track, upTo(10));
  expect(apart(twice.left, (at) => 2 * toneAt(at), 0, 19_200)).toBeLessThan(1e-4);
  const thrice = heard([whole, { ...whole }, { ...whole }], rate, track, upTo(10));
  expect(Math.max(...thrice.left)).toBe(1);
  const faded = heard([{ ...whole, fadeIn: { begun: 0, samples: 19_200 } }], rate, track, upTo(10));
  expect(apart(faded.left, (at) => (toneAt(at) * (at + 0.5)) / 19_200, 0, 19_200)).toBeLessThan(1e-4);
});

test('damaged sound is silent or said to be broken, whatever was done to it, and what follows is whole', async () => {
  const random = seededRandom(41);
  for (const [name, media] of kinds.filter(([, , isExact]) => !isExact)) {
    const path = await made(`hurt-${name}`, media);
    const { track, frames, rate } = await trackOf(path);
    const bytes = await readFile(path);
    for (let round = 0; round < 60; round++) {
      const copy = Buffer.from(bytes);
      for (let hole = 0; hole < 4; hole++) {
        const row = Math.floor(random() * track.packets.length);
        const at = track.packets.offset[row] as number;
        for (let i = 0; i < (track.packets.size[row] as number); i++)
          if (random() < 0.3) copy[at + i] = Math.floor(random() * 256);
      }
      const hurt = round % 5 === 0 ? copy.subarray(0, Math.floor(random() * copy.length)) : copy;
      const read = (offset: number, count: number) => hurt.subarray(offset, offset + count);
      const { left } = heard([wholeClip('m', frames, rate)], rate, { ...track, read }, upTo(frames));
      expect(left.length).toBe(sampleAt(frames, rate));
      expect(left.every((value) => value >= -1 && value <= 1)).toBe(true);
    }
    const gone = heard(
      [wholeClip('m', frames, rate)],
      rate,
      { ...track, read: () => Buffer.alloc(0) },
      upTo(frames),
    );
    expect(gone.broken).toBeGreaterThan(0);
    expect(Math.max(...gone.left)).toBe(0);
  }
});

test('an index that lies ends in silence, not in a hang or an error', async () => {
  const { track, frames, rate } = await trackOf(await made('lies.ts', { ...plain, audio: 'aac' }));
  const { packets } = track;
  for (const lying of [
    { ...packets, offset: packets.offset.map(() => 1e12) },
    { ...packets, size: packets.size.map(() => 1) },
    { ...packets, size: packets.size.map(() => 0) },
    { ...packets, at: packets.at.map(() => 1e9) },
    { ...packets, offset: packets.offset.toReversed() },
  ]) {
    const { left } = heard([wholeClip('m', frames, rate)], rate, { ...track, packets: lying }, upTo(frames));
    expect(left.length).toBe(sampleAt(frames, rate));
  }
});

test('sound that no decoder here takes is broken, and silent', async () => {
  const { track, frames, rate } = await trackOf(await made('alien.mov', { ...plain, audio: true }));
  const alien = { ...track, setup: { ...track.setup, codecId: 0x7fffffff } };
  const { left, broken } = heard([wholeClip('m', frames, rate)], rate, alien, upTo(frames));
  expect([Math.max(...left), broken]).toEqual([0, frames]);
});

describe('on a clock of its own', () => {
  const rate = rational(25);
  const slotUs = 40_000;

  /** Runs sound whose slots take given times, µs, from a t0 on; where slots follow the work, each is shown at a given time. */
  function run(
    takes: (slot: number) => number,
    { slotCount = 20, ahead = 4, holdTime = true, shownEveryUs = 0 } = {},
  ) {
    const views = soundViews(createSoundShared(slotCount));
    let now = 1;
    let startUs = 0;
    const worked: number[] = [];
    const begin = () => {
      if (startUs === 0 && worked.length >= Math.min(ahead, slotCount)) views.timing[0] = startUs = now;
      if (!holdTime && startUs === 0) views.timing[0] = startUs = 1;
    };
    const pass = () => {
      begin();
      const every = holdTime ? slotUs : shownEveryUs;
      const passed = startUs === 0 ? 0 : Math.floor((now - startUs) / every);
      views.passed[0] = Math.min(slotCount, Math.max(views.passed[0]!, passed));
    };
    workOutSound(
      { slotCount, rate, ahead, holdTime },
      {
        slot: (slot) => {
          worked.push(slot);
          now += takes(slot);
          pass();
          return {
            mix: new Float32Array(0),
            readUs: takes(slot),
            decodeUs: 20,
            mixUs: 3,
            bytes: 7,
            isBroken: slot === 3,
          };
        },
      },
      views,
      {
        now: () => now,
        wait: () => {
          now += 500;
          pass();
        },
      },
    );
    return { states: [...views.state], worked, views };
  }
  const { ready, underRun, broken } = soundState;
  const list = (length: number, state: (slot: number) => number) =>
    Array.from({ length }, (_, slot) => state(slot));

  test('quick enough, all is ready and nothing is left out; what the decoder refused is told', () => {
    const { states, worked, views } = run(() => 10_000);
    expect(states).toEqual(list(20, (slot) => (slot === 3 ? broken : ready)));
    expect(worked).toEqual(list(20, (slot) => slot));
    expect([views.readUs[5], views.decodeUs[5], views.mixUs[5], views.bytes[5], views.done[0]]).toEqual([
      10_000, 20, 3, 7, 20,
    ]);
  });

  test('one long wait within what is ahead does no harm; a longer one costs the slots whose time it took', () => {
    expect(run((slot) => (slot === 8 ? 110_000 : 1_000)).states).not.toContain(underRun);
    const { states, worked } = run((slot) => (slot === 8 ? 300_000 : 1_000));
    // Begun with slots 8 to 11 to come, it ends 300 ms later: slot 8 is late, those due by then are given up.
    expect(states.filter((state) => state === underRun).length).toBeGreaterThanOrEqual(3);
    expect(states.filter((state) => state === underRun).length).toBeLessThanOrEqual(5);
    expect(states[8]).toBe(underRun);
    expect(states.slice(14)).toEqual(list(6, () => ready));
    for (const slot of worked.slice(9)) expect(states[slot]).toBe(ready);
  });

  test('too slow all along, it keeps up with every second slot or so: what would be late is not begun', () => {
    const { states, worked, views } = run(() => 60_000, { slotCount: 100 });
    const late = states.flatMap((state, slot) => (state === underRun ? [slot] : []));
    // 60 ms of work in 40 ms slots: two of three can be ready, where none is begun in vain.
    expect(late.length).toBeGreaterThan(100 * (1 - 40 / 60) * 0.8);
    expect(late.length).toBeLessThan(55);
    const givenUp = list(100, (slot) => slot).filter((slot) => !worked.includes(slot));
    for (const slot of givenUp) expect([states[slot], views.readUs[slot]]).toEqual([underRun, -1]);
    expect(late.length - givenUp.length).toBeLessThan(5);
  });

  test('where slots follow the work nothing is due: none is left out, and none is late, however long it takes', () => {
    for (const us of [30_000, 10_000]) {
      const { states, worked } = run(() => us, { holdTime: false, shownEveryUs: 20_000 });
      expect(worked).toEqual(list(20, (slot) => slot));
      expect(states).toEqual(list(20, (slot) => (slot === 3 ? broken : ready)));
    }
  });

  test('told to end, it ends at the next slot', () => {
    const views = soundViews(createSoundShared(20));
    let count = 0;
    workOutSound(
      { slotCount: 20, rate, ahead: 4, holdTime: true },
      {
        slot: () => {
          if (++count === 3) views.stop[0] = 1;
          return { mix: new Float32Array(0), readUs: 1, decodeUs: 1, mixUs: 1, bytes: 1, isBroken: false };
        },
      },
      views,
      { now: () => 1, wait: () => undefined },
    );
    expect([...views.state].filter((state) => state !== 0)).toHaveLength(3);
  });
});
