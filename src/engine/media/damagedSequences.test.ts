import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { seededRandom } from '@/core/stats/random';
import { damage, outcomeOf, readerOfDamages } from '../testing/damages';
import { writeTestMedia } from '../testing/testMedia';
import { workFolder } from '../testing/testTrial';

/** Kinds of pictures of which a clip may have a file for each frame. */
const pictures: readonly (readonly [string, string, string])[] = [
  ['dpx', 'dpx', 'gbrp10le'],
  ['exr', 'exr', 'gbrpf32le'],
  ['tif', 'tiff', 'rgb48le'],
  ['png', 'png', 'rgb24'],
  ['jpg', 'mjpeg', 'yuvj420p'],
  ['j2k', 'jpeg2000', 'yuv422p10le'],
];

test('a thousand damages of sequences: a file in any state, or gone, ends with words or with frames', async () => {
  const own = await readerOfDamages();
  const random = seededRandom(23);
  const outcomes: Record<string, number> = {};
  for (const [ending, encoder, pixelFormat] of pictures) {
    const folder = join(await workFolder(), 'damaged', `pictures-${ending}`);
    await mkdir(folder, { recursive: true });
    await writeTestMedia(join(folder, `p.%04d.${ending}`), {
      encoder,
      pixelFormat,
      width: 96,
      height: 64,
      frames: 5,
    });
    for (let number = 0; number < 167; number++) {
      const file = join(folder, `p.000${1 + Math.floor(random() * 5)}.${ending}`);
      const whole = await readFile(file);
      if (random() < 0.1) await rm(file);
      else await writeFile(file, damage(whole, random));
      const outcome = await outcomeOf(own, join(folder, `p.####.${ending}`), false);
      outcomes[outcome] = (outcomes[outcome] ?? 0) + 1;
      await writeFile(file, whole);
    }
    expect(await outcomeOf(own, join(folder, `p.####.${ending}`), false)).toBe('ready');
  }
  own.stop();
  expect(outcomes['unclear']).toBeUndefined();
  expect(outcomes['ready']).toBeGreaterThan(300);
  expect((outcomes['refused'] ?? 0) + (outcomes['problem named'] ?? 0)).toBeGreaterThan(30);
}, 300_000);
