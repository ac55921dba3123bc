import { join } from 'node:path';
import { smallIntra, smallLongGop } from './smallClips';
import { encodeDemoClip } from './encodeClip';
import { sceneSound } from './sound';
import { workFolder } from '@/engine/testing/testTrial';
import { makePreview } from '@/engine/library/preview';
import { probeClip } from '@/engine/media/probe';

test('the scene’s sound stays within bounds, follows its seed, and is no constant', () => {
  const samples = Array.from({ length: 48_000 }, (_, at) => sceneSound(at / 48_000, 31));
  expect(Math.max(...samples.map(Math.abs))).toBeLessThan(0.8);
  expect(Math.max(...samples)).toBeGreaterThan(0.1);
  expect(sceneSound(0.5, 31)).toBe(sceneSound(0.5, 31));
  expect(sceneSound(0.5, 31)).not.toBe(sceneSound(0.5, 32));
});

test.each([
  [smallIntra, 'pcm', { codec: 'PCM', bitDepth: 16 }],
  [smallLongGop, 'aac', { codec: 'AAC', bitDepth: null }],
] as const)(
  'a clip with sound is whole, its pictures are where they were, and its peaks show it',
  async (clip, sound, track) => {
    const file = `sound/${sound}${clip.file.slice(-4)}`;
    await encodeDemoClip({ ...clip, file, frames: 50, sound }, await workFolder());
    const path = join(await workFolder(), file);
    const probed = await probeClip(path);
    expect(probed).toMatchObject({ frames: 50, problem: null, startTimecode: clip.startTimecode });
    expect(probed.identity.audio).toEqual([
      expect.objectContaining({ ...track, channels: 2, samplesPerSecond: 48_000 }),
    ]);
    const { peaks } = await makePreview(
      { path, setup: probed.setup, rate: probed.format.rate, packets: probed.packets },
      1,
    );
    expect(Math.max(...peaks!)).toBeGreaterThan(20);
  },
);
