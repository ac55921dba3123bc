import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { probeClip } from '../media/probe';
import { writeTestMedia, type TestMedia } from './testMedia';

/**
 * Writes a take of 72 frames over several files, as cameras split one: each goes on at a key frame, with its tables in front.
 * @param at frames, all of them key frames, at which another file begins
 */
export async function splitTake(
  folder: string,
  names: readonly string[],
  at: readonly number[],
  audio: TestMedia['audio'] = false,
): Promise<void> {
  const whole = join(folder, 'whole.m2ts');
  await writeTestMedia(whole, {
    encoder: 'libx264',
    pixelFormat: 'yuv420p',
    width: 256,
    height: 144,
    frames: 72,
    gop: 24,
    audio,
    // Tables stand in front of every frame.
    muxOptions: { mpegts_flags: '+pat_pmt_at_frames' },
    options: { preset: 'ultrafast', 'x264-params': 'scenecut=0:bframes=0' },
  });
  const { packets } = await probeClip(whole);
  const bytes = await readFile(whole);
  await rm(whole);
  const tables = 2 * 192;
  const cuts = [0, ...at.map((row) => (packets.offset[row] as number) - tables), bytes.length];
  for (const [part, name] of names.entries())
    await writeFile(join(folder, name), bytes.subarray(cuts[part], cuts[part + 1]));
}
