import { smallIntra } from '@/demo/smallClips';
import { mkdir, open, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import {
  exportCodecIds,
  exportCodecs,
  type ExportChoice,
  type ExportPicture,
} from '@/core/tasks/exportCodecs';
import type { Effect } from '@/core/timeline/model';
import { stoppedAt } from '@/core/kinds/shared/task';
import { probeClip } from '../media/probe';
import { assertRoomFor, removeScratch } from './scratch';
import { SoundMix } from './soundMix';
import { richMedia as rich, writeTestMedia, type TestMedia as Written } from '../testing/testMedia';
import type { TimelineSpec } from '../timeline/spec';
import { runExport } from '../testing/testTask';
import { onFrame, streamsOf, testMedia } from '../testing/testTimelineRun';
import { workFolder, smallClip } from '../testing/testTrial';

let clips = 0;

/** A timeline of one clip of its own. */
async function clipTimeline(change: Partial<Written> = {}) {
  const path = join(await workFolder(), 'export', `source-${clips++}.mov`);
  await writeTestMedia(path, { ...rich, ...change });
  return streamsOf(await testMedia(path));
}

/** A codec's usual choice for a picture. */
function usual(codec: (typeof exportCodecIds)[number], picture: ExportPicture): Partial<ExportChoice> {
  const { controls, quality, classes, speeds, sounds } = exportCodecs[codec];
  const [control = 'quality'] = controls;
  return {
    codec,
    picture,
    control,
    quality: control === 'quality' ? (quality?.usual ?? null) : null,
    rateClass:
      control === 'class' ? (classes?.findLast((one) => one.pictures.includes(picture))?.id ?? null) : null,
    speed: speeds ? 'fastest' : null,
    sound: sounds[0]!,
  };
}

const all = exportCodecIds.flatMap((codec) =>
  (Object.keys(exportCodecs[codec].pictures) as ExportPicture[]).map((picture) => [codec, picture] as const),
);

test.each(all)(
  '%s %s: every frame and all sound is there, and is what was handed over',
  async (codec, picture) => {
    const { end, record, volume } = await runExport(await clipTimeline(), usual(codec, picture));
    if (end.kind !== 'done') throw new Error(JSON.stringify(end));
    const { sounds, container } = exportCodecs[codec];
    const hasSound = sounds[0] !== 'none';
    expect(record.proof).toMatchObject({ frames: 40, damaged: 0, problems: [] });
    expect(record.proof!.check).toMatchObject({ wrong: 0, missing: 0 });
    expect(record.proof!.check.same).toBeGreaterThan(30);
    expect(record.proof!.soundSeconds !== null).toBe(hasSound);
    expect(record.made).toMatchObject({ frames: 40, soundSources: hasSound ? 1 : 0 });
    const kept = join(volume, record.made!.keptAs!);
    if (container === 'sequence') {
      expect(await readdir(kept)).toHaveLength(40);
      return;
    }
    const { format, frames, identity } = await probeClip(kept);
    const [, depth, chroma] = /^(\d+)-bit (.*)$/.exec(picture)!;
    // This codec's decoder gives 12 bits of 4:4:4, whatever went in.
    const given = codec === 'prores' && chroma === '4:4:4' ? '12' : depth;
    expect({ frames, depth: format.bitDepth, chroma: format.chroma }).toEqual({
      frames: 40,
      depth: Number(given),
      chroma,
    });
    expect(format.rate).toEqual({ num: 30_000, den: 1001 });
    expect(identity.audio.length).toBe(hasSound ? 1 : 0);
    expect(await readdir(volume)).toEqual(['exports']);
  },
);

test('nothing stays behind where it is not to be kept; what is kept stands beside what has its name', async () => {
  const source = await clipTimeline({ frames: 12 });
  const { record, volume } = await runExport(source, { keep: false });
  expect(record.made!.keptAs).toBeNull();
  expect(await readdir(volume)).toEqual([]);
  await mkdir(join(volume, 'exports'));
  await writeFile(join(volume, 'exports', 'made.mp4'), 'mine');
  const again = await runExport(source, {}, { target: { path: volume, standIn: null } });
  expect(again.record.made!.keptAs).toBe('exports/made_2.mp4');
  expect(await readFile(join(volume, 'exports', 'made.mp4'), 'utf8')).toBe('mine');
});

test('how like its source it is: nothing is lost without loss, and more with less quality', async () => {
  const source = await clipTimeline({ frames: 12, pixelFormat: 'yuv420p' });
  const loss = async (settings: Parameters<typeof runExport>[1]) =>
    (await runExport(source, { keep: false, likeness: true, ...settings })).record.likeness!;
  const lossless = await loss(usual('ffv1', '8-bit 4:2:0'));
  expect(lossless).toEqual({ frames: 12, ssim: 1, psnr: null });
  const [fine, coarse] = [await loss({ quality: 10 }), await loss({ quality: 45 })];
  expect(fine.psnr!).toBeGreaterThan(coarse.psnr! + 5);
  expect(coarse.ssim).toBeLessThan(fine.ssim);
});

test('a timeline of several layers goes through its graph; a part of it is that part', async () => {
  const path = join(await workFolder(), 'export', `source-${clips++}.mov`);
  await writeTestMedia(path, rich);
  const source = streamsOf(await testMedia(path), 2);
  const { end, record, volume } = await runExport(
    source,
    { picture: '10-bit 4:2:2', sound: 'aac' },
    { course: { from: 10, slots: 20 } },
  );
  expect(end.kind).toBe('done');
  expect(record.proof).toMatchObject({ frames: 20, problems: [] });
  expect(record.proof!.soundSeconds!).toBeCloseTo((20 * 1001) / 30_000, 1);
  expect((await probeClip(join(volume, record.made!.keptAs!))).frames).toBe(20);
});

test.each([
  ['kept', true],
  ['8-bit', false],
] as const)(
  'effects on a source of 10 bits, depth %s: more levels than 8 bits hold come out: %s',
  async (depth, more) => {
    const path = join(await workFolder(), 'export', `source-${clips++}.mkv`);
    await writeTestMedia(path, {
      encoder: 'ffv1',
      pixelFormat: 'yuv422p10le',
      width: 1024,
      height: 64,
      frames: 3,
      rgb16: (x) => [64 * x, 64 * x, 64 * x],
    });
    const plain = streamsOf(await testMedia(path));
    const graded = withGrade(plain);
    const { end, record, volume } = await runExport(graded, { ...usual('ffv1', '10-bit 4:2:2'), depth });
    expect(end.kind).toBe('done');
    const levels = await onFrame(join(volume, record.made!.keptAs!), 1, ({ data, linesize }) => {
      const line = Array.from({ length: 1024 }, (_, x) => data![0]!.readUInt16LE(10 * linesize[0]! + 2 * x));
      return new Set(line);
    });
    // Of 876 levels that 10 bits of narrow range have, gains of 0.8 leave 700.
    expect(levels.size > 600).toBe(more);
    expect(levels.size).toBeGreaterThan(150);
  },
);

/** The same with a grade on every item. */
function withGrade({ timeline, ...rest }: TimelineSpec): TimelineSpec {
  const grade: Effect = { id: 'g', on: true, kind: 'white-balance', gains: [0.8, 0.8, 0.8] };
  const tracks = timeline.tracks.map((track) => ({
    ...track,
    items: track.items.map((item) => ({ ...item, effects: [grade] })),
  }));
  return { ...rest, timeline: { ...timeline, tracks } };
}

test('frames that cannot be decoded show the one before, and the export is as long as it should be', async () => {
  const path = join(await workFolder(), 'export', `source-${clips++}.mov`);
  await writeTestMedia(path, {
    encoder: 'mjpeg',
    pixelFormat: 'yuvj420p',
    width: 256,
    height: 144,
    frames: 40,
  });
  const media = await testMedia(path);
  const { offset, size } = media.probed.packets;
  const handle = await open(path, 'r+');
  for (const frame of [0, 17])
    await handle.write(Buffer.alloc(size[frame]!, 7), 0, size[frame], offset[frame]);
  await handle.close();
  const source = streamsOf(media);
  const { end, record } = await runExport(source);
  expect(end.kind).toBe('done');
  expect(record.proof).toMatchObject({ frames: 40, problems: [] });
  expect(record.faults!.clips).toHaveLength(1);
});

test('cancelled, it ends soon and leaves nothing; killed, what it leaves is known by its marker and goes', async () => {
  const source = await clipTimeline({ frames: 200 });
  const slowed = { stage: 'encode', us: 20_000 } as const;
  const cancelled = await runExport(source, {}, { slowed }, (host, { frames }) => {
    if (frames > 0) host.cancel();
  });
  expect(cancelled.end.kind).toBe('cancelled');
  expect(cancelled.record.made).toBeNull();
  expect(await readdir(cancelled.volume)).toEqual([]);
  const killed = await runExport(source, {}, { slowed }, (host, { busiest }) => {
    if (busiest !== null) process.kill(host.pid!, 'SIGKILL');
  });
  expect(killed.end.kind).toBe('crashed');
  expect(stoppedAt(killed.progress.at(-1)!)).toMatch(/^Stopped at \d+\s%, frame \d+, while encoding\.$/);
  const { volume } = killed;
  expect(await readdir(volume)).toEqual(['.navvy-scratch-test']);
  // Somebody's own folder of such a name is left alone.
  await mkdir(join(volume, '.navvy-scratch-mine'));
  await writeFile(join(volume, '.navvy-scratch-mine', 'a.txt'), 'mine');
  await removeScratch(volume);
  expect(await readdir(volume)).toEqual(['.navvy-scratch-mine']);
});

test('a volume is never filled: what may take more than it has room for is refused, and names what to do', async () => {
  const folder = await workFolder();
  await expect(assertRoomFor(folder, 1e18)).rejects.toThrow(/has room for .* may take .* Free space/);
  await expect(assertRoomFor(folder, 1)).resolves.toBeUndefined();
});

test('a volume that goes away while it is written to ends the export with what to do', async () => {
  const source = await clipTimeline({ frames: 200 });
  const { end } = await runExport(
    source,
    {},
    { slowed: { stage: 'encode', us: 30_000 } },
    (_, { frames }, volume) => {
      if (frames > 0) void rm(volume, { recursive: true, force: true });
    },
  );
  expect(end).toMatchObject({
    kind: 'failed',
    message: expect.stringMatching(/went away|could not|is not there/) as string,
  });
});

test('sound is mixed of where items begin in their clips, at their own places', async () => {
  const path = join(await workFolder(), 'export', `source-${clips++}.mov`);
  await writeTestMedia(path, { ...rich, rate: [25, 1], frames: 50 });
  const part = { media: 'm', fadeIn: { begun: 0, samples: 0 }, fadeOut: { left: 0, samples: 0 } };
  const half = 24_000;
  // The clip has a tone in the first half of every second.
  const mix = (await SoundMix.open(
    [
      { ...part, at: 0, samples: half, fromSeconds: 0.5 },
      { ...part, at: half, samples: half, fromSeconds: 1 },
      { ...part, at: half, samples: half, fromSeconds: 1 },
    ],
    () => path,
  ))!;
  expect(mix.sources).toBe(1);
  const loudest = async () =>
    (await mix.block(half)).reduce((most, value) => Math.max(most, Math.abs(value)), 0);
  const level = 16_000 / 32_768;
  expect(await loudest()).toBeLessThan(0.02);
  expect(await loudest()).toBeCloseTo(2 * level, 1);
  expect(await loudest()).toBe(0);
  await mix.close();
  const first = [{ ...part, at: 0, samples: 10, fromSeconds: 0 }];
  const silent = await smallClip(smallIntra);
  expect(await SoundMix.open(first, () => silent)).toBeNull();
  await expect(SoundMix.open(first, () => '/nowhere.mov')).rejects.toThrow('is not there');
});
