import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { seededRandom } from '@/core/stats/random';
import { damage, outcomeOf, readerOfDamages } from './damages';
import { writeTestMedia, type TestMedia } from './testMedia';
import { workFolder } from './testTrial';

/** Damages a file whose frames are cut into small packets, whose damage no index at one place tells: each outcome is clear. */
export async function damagedStream(name: string, damages: number, media: TestMedia): Promise<void> {
  const folder = join(await workFolder(), 'damaged');
  await mkdir(folder, { recursive: true });
  const own = await readerOfDamages();
  const path = join(folder, name);
  await writeTestMedia(path, media);
  const whole = await readFile(path);
  const random = seededRandom(name.length);
  const outcomes: Record<string, number> = {};
  const damaged = join(folder, `damaged-${name}`);
  for (let number = 0; number < damages; number++) {
    await writeFile(damaged, damage(whole, random));
    const outcome = await outcomeOf(own, damaged, false);
    outcomes[outcome] = (outcomes[outcome] ?? 0) + 1;
  }
  expect((await own.ask({ kind: 'probe', path })).problem).toBeNull();
  own.stop();
  expect(outcomes['unclear']).toBeUndefined();
  expect(outcomes['ready']).toBeGreaterThan(damages / 4);
  expect((outcomes['refused'] ?? 0) + (outcomes['problem named'] ?? 0)).toBeGreaterThan(3);
}
