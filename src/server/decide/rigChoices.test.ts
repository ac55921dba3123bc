import { playedKinds } from '@/core/kinds/kinds';
import { addTrials } from '@/db/queries/trials';
import { database } from '@/db/client';
import { getClip, listClipsOfVolume, saveClip, updateClips, type ClipWithVolume } from '@/db/queries/clips';
import { saveDevices } from '@/db/queries/rigs';
import { footage } from '@/db/schema';
import { smallIntra } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { decodeTrial } from '../library/decode';
import { rigChoicesOf } from './rigChoices';
import { onTestDatabase, scannedClip, storedTrial } from '../testing/testDatabase';
import { requireTrial } from '../platform/trialQueue';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  clip = await scannedClip(smallIntra);
});

const interval = (value: number) => ({ value, low: value - 0.2, high: value + 0.2 });

async function rated(of: ClipWithVolume, framesPerSecond: number): Promise<void> {
  const row = decodeTrial(of, { kind: 'decode-rate', passSeconds: 1, passes: 3 }, null)!;
  const all = {
    framesPerSecond: { median: framesPerSecond, low: framesPerSecond, high: framesPerSecond },
    cpuUsPerFrame: 1,
    passes: 3,
    threads: 2,
    threadKind: 'frame' as const,
  };
  await addTrials([
    {
      ...row,
      id: `rate-${of.id}`,
      rigId: await thisRigId(),
      status: 'done',
      summary: {
        kind: 'decode-rate',
        decoder: 'x',
        one: null,
        all,
        firstFrameMs: 1,
        byType: [],
        seeks: [],
        seekLine: null,
        memoryBytes: null,
        msPerMegapixel: null,
        msPerMegabit: null,
      },
    },
  ]);
}

test('a proxy serves as a cure once both forms were measured, and a device once it was proved to decode the format', async () => {
  const trial = await requireTrial(await storedTrial(clip, { status: 'done' }), playedKinds);
  expect(await rigChoicesOf(trial)).toEqual({ proxies: null, devices: [] });

  await database()
    .insert(footage)
    .values({ id: 'shot', rigId: await thisRigId(), name: 'Shot' });
  await updateClips([clip.id], { footageId: 'shot' });
  const row = (await listClipsOfVolume(clip.volumeId)).find(({ id }) => id === clip.id)!;
  await saveClip(
    {
      ...row,
      id: 'light',
      path: 'light.mov',
      contentHash: 'light',
      format: { ...row.format!, width: 240, height: 134 },
      meanBitsPerSecond: (row.meanBitsPerSecond ?? 0) / 4,
    },
    null,
  );
  expect((await rigChoicesOf(trial)).proxies).toBeNull(); // there is one, of unknown cost
  await rated(clip, 50);
  expect((await rigChoicesOf(trial)).proxies).toBeNull();
  await rated((await getClip('light'))!, 200);
  expect((await rigChoicesOf(trial)).proxies).toEqual({ clipId: 'light', read: 0.25, decode: 0.25 });
  // Who plays the proxy has none.
  expect((await rigChoicesOf({ ...trial, clipId: 'light' })).proxies).toBeNull();

  const device = { id: 'block', name: 'Block', simulated: true, usable: true, about: '' };
  await saveDevices(await thisRigId(), [device]);
  expect((await rigChoicesOf(trial)).devices).toEqual([]);
  const support = decodeTrial(
    clip,
    { kind: 'decode-support', deviceId: 'block', passSeconds: 1, mostPairs: 3 },
    device,
  )!;
  const parts = (['one', 'all'] as const).map((cores) => ({
    cores,
    pairs: [],
    ratio: interval(cores === 'one' ? 5 : 3.5),
    verdict: 'accelerated' as const,
    cpuUsPerFrame: { software: 1, device: 1 },
  }));
  await addTrials([
    {
      ...support,
      id: 'support',
      rigId: await thisRigId(),
      status: 'done',
      summary: {
        kind: 'decode-support',
        verdict: 'accelerated',
        parts,
        onDevice: 1,
        check: 'agrees',
        decoder: 'x',
      },
    },
  ]);
  expect((await rigChoicesOf(trial)).devices).toEqual([
    { deviceId: expect.any(String) as string, name: 'Block (simulated)', times: 3.3 },
  ]);
});
