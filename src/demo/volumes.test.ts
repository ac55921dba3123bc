import { expectedRate } from '@/core/storage/model';
import { demoClips } from './clips';
import { demoVolumes } from './volumes';

test('the demo’s volumes can be, hold clips, and are simulated but for the first', () => {
  expect(demoVolumes.map(({ standIn }) => standIn !== null)).toEqual([
    false,
    ...Array.from({ length: 7 }, () => true),
  ]);
  expect(new Set(demoVolumes.map(({ id }) => id)).size).toBe(demoVolumes.length);
  for (const { holds, standIn } of demoVolumes) {
    expect(demoClips.some(({ file }) => holds.some((start) => file.startsWith(start)))).toBe(true);
    if (standIn) expect(expectedRate(standIn, false, 2 ** 20).bytesPerSecond).toBeGreaterThan(50e6);
  }
});
