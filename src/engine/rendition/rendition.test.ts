import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { isProved } from '@/core/rendition/frameCheck';
import { presetOf, renditionPresets } from '@/core/rendition/presets';
import type { WatchedProcess } from '@/server/runner/shared/watchedProcess';
import { lumaReader } from '../media/luma';
import { probeClip } from '../media/probe';
import type { RenditionSpec } from './spec';
import { onFrame } from '../testing/testTimelineRun';
import { richMedia, writeTestMedia, type TestMedia } from '../testing/testMedia';
import { startProcess, workFolder } from '../testing/testTrial';

let made = 0;

async function make(
  media: TestMedia,
  change: Partial<RenditionSpec> = {},
  during?: (host: WatchedProcess<'rendition'>) => void,
) {
  const base = join(await workFolder(), 'renditions');
  const sourcePath = join(base, `source-${made++}.mov`);
  await writeTestMedia(sourcePath, media);
  const source = await probeClip(sourcePath);
  const outputPath = join(base, `made-${made}.mov`);
  const host: WatchedProcess<'rendition'> = await startProcess(
    'rendition',
    {
      sourcePath,
      outputPath,
      presetId: 'prores-proxy',
      raster: 'full',
      rate: source.format.rate,
      frames: source.frames,
      identity: source.identity,
      startTimecode: source.startTimecode,
      threads: 0,
      sampleFrames: null,
      ...change,
    },
    { progress: () => during?.(host) },
  );
  return { end: await host.ended, source, outputPath };
}

const rich: TestMedia = {
  ...richMedia,
  timecode: '10:00:00;02',
  rotation: 180,
  colour: { primaries: 9, transfer: 18, matrix: 9 },
};

test.each(renditionPresets.map(({ id }) => [id]))(
  '%s: frame i is frame i, and rate, timecode, sound, colour and rotation are kept',
  async (presetId) => {
    const { end, source, outputPath } = await make(rich, { presetId });
    if (end.kind !== 'done') throw new Error(JSON.stringify(end));
    expect(end.last.check).toMatchObject({ method: 'frame code', same: 40, wrong: 0, missing: 0 });
    const copy = await probeClip(outputPath);
    expect(copy).toMatchObject({
      frames: 40,
      startTimecode: '10:00:00;02',
      problem: null,
      format: { rate: source.format.rate, width: 256, height: 144 },
    });
    expect(copy.identity).toMatchObject({
      rotation: 180,
      dropFrame: true,
      timing: { constant: true },
      audio: source.identity.audio,
    });
    if (!['mjpeg', 'ffv1'].includes(presetId))
      expect(copy.identity.colour).toMatchObject({
        primaries: 'BT.2020',
        transfer: 'HLG (ARIB B67)',
        matrix: 'BT.2020',
      });
    if (presetOf(presetId).pixelFormats.includes('yuv422p10le'))
      expect(copy.format).toMatchObject({ bitDepth: 10, chroma: '4:2:2' }); // kept where the codec can
    expect(end.last.work!.stageUs.encode).toBeGreaterThan(0);
    expect(end.last.work!.audioTracks).toBe(1);
  },
);

test.each(renditionPresets.map(({ id }) => [id]))(
  '%s at half raster keeps the fields of an interlaced clip apart',
  async (presetId) => {
    const { end, outputPath } = await make(
      {
        ...richMedia,
        encoder: 'prores_ks',
        width: 512,
        height: 288,
        frames: 4,
        interlaced: 'top',
        options: { profile: '2' },
        rgb: (_x, y) => (y % 2 === 0 ? [60, 60, 60] : [190, 190, 190]),
      },
      { presetId, raster: 'half' },
    );
    if (end.kind !== 'done') throw new Error(JSON.stringify(end));
    expect(await probeClip(outputPath)).toMatchObject({ frames: 4, format: { width: 256, height: 144 } });
    const lines = await onFrame(outputPath, 1, (frame) => {
      const luma = lumaReader(frame)!;
      return Array.from({ length: 144 }, (_, y) => luma(100, y));
    });
    for (const [y, level] of lines.entries())
      if (y % 2 === 0 ? level > 100 : level < 140) throw new Error(`Line ${y} is ${level}`);
  },
);

test('half and quarter raster; a picture without a code is checked by its distance', async () => {
  for (const raster of ['half', 'quarter'] as const) {
    const { end, outputPath } = await make({ ...rich, uncoded: true }, { raster });
    if (end.kind !== 'done') throw new Error(JSON.stringify(end));
    expect(end.last.check!.method).toBe('picture distance');
    expect(isProved(end.last.check!)).toBe(true);
    expect((await probeClip(outputPath)).format).toMatchObject(
      raster === 'half' ? { width: 128, height: 72 } : { width: 64, height: 36 },
    );
  }
});

test('a variable rate is kept where the codec can, and refused where it cannot', async () => {
  const media: TestMedia = {
    encoder: 'mjpeg',
    pixelFormat: 'yuvj420p',
    width: 256,
    height: 144,
    ptsMs: (index) => index * 40 + (index % 2) * 15,
  };
  const { end, source, outputPath } = await make(media, { presetId: 'h264-intra' });
  expect(end.kind).toBe('done');
  const copy = await probeClip(outputPath);
  expect(copy.identity.timing).toMatchObject({ constant: false });
  expect(copy.identity.timing.longestMs).toBeCloseTo(source.identity.timing.longestMs, 0);
  expect((await make(media, { presetId: 'mpeg2-intra' })).end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('needs a constant rate') as string,
  });
});

test('a rendition that is cancelled ends at once; a sample makes only its frames', async () => {
  const long = { ...rich, frames: 1_200 };
  expect((await make(long, {}, (host) => host.cancel())).end.kind).toBe('cancelled');
  const { end } = await make(long, { sampleFrames: 24 });
  expect(end).toMatchObject({ kind: 'done', last: { work: { frames: 24 }, check: null } });
});

test('a source that is gone is said so, and leaves nothing behind', async () => {
  const { end, outputPath } = await make(rich, { sourcePath: '/nowhere/clip.mov' });
  expect(end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('/nowhere/clip.mov is not there') as string,
  });
  expect(existsSync(outputPath)).toBe(false);
});
