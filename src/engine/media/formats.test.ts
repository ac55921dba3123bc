import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ProbedClip } from './streamFacts';
import { probeClip } from './probe';
import { makePreview } from '../library/preview';
import { workFolder } from '../testing/testTrial';
import { formatSamples } from '../testing/formatSamples';
import { writeTestMedia, type TestMedia } from '../testing/testMedia';

let made = 0;

async function probed(ending: string, media: TestMedia): Promise<ProbedClip & { path: string }> {
  const path = join(await workFolder(), 'formats', `clip-${made++}.${ending}`);
  await writeTestMedia(path, media);
  return { ...(await probeClip(path)), path };
}

test.each(formatSamples)(
  '%s is known for what it is, decodes, and shows its pictures',
  async (_name, ending, media, expected) => {
    const clip = await probed(ending, media);
    expect({ ...clip.format, ...clip.structure, alpha: clip.identity.alpha }).toMatchObject(expected);
    expect(clip).toMatchObject({
      frames: media.frames ?? 24,
      identity: { decodeProblem: null, timing: { constant: true, missing: 0, duplicate: 0 } },
    });
    const preview = await makePreview(
      { path: clip.path, setup: clip.setup, rate: clip.format.rate, packets: clip.packets },
      1,
    );
    expect(clip.problem).toBeNull();
    expect(preview.fingerprint).toHaveLength(96);
    expect(preview.strip.subarray(0, 2)).toEqual(Uint8Array.from([0xff, 0xd8]));
  },
);

test('29.97 drop-frame timecode, colour, rotation, pixel aspect and sound are read', async () => {
  const { identity, startTimecode, format, path, setup, packets } = await probed('mov', {
    encoder: 'prores_aw',
    pixelFormat: 'yuv422p10le',
    rate: [30_000, 1001],
    timecode: '01:00:00;02',
    rotation: 90,
    audio: true,
    frames: 30,
    pixelAspect: [4, 3],
    colour: { primaries: 9, transfer: 18, matrix: 9 },
  });
  expect(startTimecode).toBe('01:00:00;02');
  expect(format.rate).toEqual({ num: 30_000, den: 1001 });
  expect(identity).toMatchObject({
    dropFrame: true,
    rotation: 90,
    pixelAspect: { num: 4, den: 3 },
    colour: { primaries: 'BT.2020', transfer: 'HLG (ARIB B67)', matrix: 'BT.2020' },
    indexAtEnd: true,
    edits: null,
  });
  expect(identity.audio).toEqual([
    { codec: 'PCM', channels: 2, layout: 'stereo', samplesPerSecond: 48_000, bitDepth: 16 },
  ]);
  const { peaks } = await makePreview({ path, setup, rate: format.rate, packets }, 1);
  expect(peaks).toHaveLength(800);
  expect(Math.max(...peaks!.subarray(0, 350))).toBeGreaterThan(100); // the tone in the first half second
  expect(Math.max(...peaks!.subarray(450, 780))).toBe(0);
});

test('PQ and a full tag of the index at the beginning', async () => {
  const { identity } = await probed('mp4', {
    encoder: 'libx265',
    pixelFormat: 'yuv420p10le',
    options: { preset: 'ultrafast', 'x265-params': 'log-level=none' },
    colour: { primaries: 9, transfer: 16, matrix: 9 },
    muxOptions: { movflags: '+faststart' },
  });
  expect(identity).toMatchObject({
    colour: { transfer: 'PQ (ST 2084)' },
    indexAtEnd: false,
    level: expect.any(String) as string,
  });
});

test('a variable rate is told from a constant one', async () => {
  const { identity } = await probed('mov', {
    encoder: 'mjpeg',
    pixelFormat: 'yuvj420p',
    ptsMs: (index) => index * 40 + (index % 3) * 13,
  });
  expect(identity.timing).toMatchObject({ constant: false });
  expect(identity.timing.longestMs).toBeGreaterThan(identity.timing.shortestMs * 1.5);
});

test.each([
  [
    'MPEG-2, top field first',
    'mpg',
    {
      encoder: 'mpeg2video',
      pixelFormat: 'yuv420p',
      width: 720,
      height: 576,
      interlaced: 'top',
      gop: 12,
      bFrames: 2,
    },
    'top field first',
  ],
  [
    'MPEG-2 in MXF, top field first',
    'mxf',
    {
      encoder: 'mpeg2video',
      pixelFormat: 'yuv422p',
      width: 1920,
      height: 1080,
      interlaced: 'top',
      gop: 1,
      frames: 6,
    },
    'top field first',
  ],
  [
    'DV, bottom field first',
    'dv',
    { encoder: 'dvvideo', pixelFormat: 'yuv420p', width: 720, height: 576, interlaced: 'bottom' },
    'bottom field first',
  ],
] as const)('interlaced %s', async (_name, ending, media, scan) => {
  const { identity, format } = await probed(ending, media);
  expect(identity.scan).toBe(scan);
  expect(format.height).toBe(media.height);
});

test('open and closed groups, frame types and reference depth', async () => {
  const params = (more: string) => ({
    preset: 'veryfast',
    'x264-params': `log-level=none:scenecut=0:keyint=12:min-keyint=12:bframes=3:b-adapt=0:ref=3${more}`,
  });
  const open = await probed('mp4', {
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    frames: 48,
    bFrames: 3,
    gop: 12,
    options: params(':open-gop=1'),
  });
  const closed = await probed('mp4', {
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    frames: 48,
    bFrames: 3,
    gop: 12,
    options: params(':open-gop=0'),
  });
  expect(open.structure).toMatchObject({ openGop: true, hasBFrames: true });
  expect(closed.structure).toMatchObject({
    openGop: false,
    hasBFrames: true,
    referenceDepth: expect.any(Number) as number,
    keyInterval: { min: 12, mean: 12, max: 12 },
  });
  const hevc = await probed('mp4', {
    encoder: 'libx265',
    pixelFormat: 'yuv420p',
    frames: 24,
    options: {
      preset: 'ultrafast',
      'x265-params': 'log-level=none:keyint=12:bframes=2:b-adapt=0:open-gop=0',
    },
  });
  expect(hevc.structure).toMatchObject({ openGop: false, hasBFrames: true });
  const mpeg2 = await probed('mpg', {
    encoder: 'mpeg2video',
    pixelFormat: 'yuv420p',
    frames: 24,
    gop: 12,
    bFrames: 2,
    width: 352,
    height: 288,
  });
  for (const { packets } of [closed, hevc, mpeg2]) expect(new Set(packets.type)).toEqual(new Set([1, 2, 3])); // I, P and B, none unknown
});

test('a codec that is not known is listed with what is known of it', async () => {
  const path = join(await workFolder(), 'formats', 'closed.mov');
  await writeTestMedia(path, { encoder: 'mjpeg', pixelFormat: 'yuvj420p' });
  const bytes = await readFile(path);
  const at = bytes.lastIndexOf('jpeg', bytes.indexOf('stsd') + 60);
  bytes.write('Xr1w', at, 'latin1');
  await writeFile(path, bytes);
  const clip = await probeClip(path);
  expect(clip.problem).toMatch(/Its codec "Xr1w" is not known here: a closed camera raw form/);
  expect(clip).toMatchObject({
    frames: 24,
    format: { codec: 'unknown codec "Xr1w"', width: 128, height: 96 },
  });
  expect(clip.meanBitsPerSecond).toBeGreaterThan(0);
});
