import type { ThroughputSettings } from '@/core/kinds/throughput';
import type { ThroughputSummary } from '@/core/storage/throughput';
import { playbackInput } from '@/core/kinds/playback';
import { scrubInput } from '@/core/kinds/scrub';
import { throughputInput } from '@/core/kinds/throughput';
import type { ClipWithVolume } from '@/db/queries/clips';
import { addTrials, getTrial, latestThroughput } from '@/db/queries/trials';
import { getVolume, updateVolume } from '@/db/queries/volumes';
import { smallIntra } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { startPlayback } from '../kinds/playback';
import { startScrub } from '../kinds/scrub';
import { startThroughput } from '../kinds/throughput';
import { neededByVolume, neededOf } from './readAs';
import { storageTrial } from './storage';
import { newId, onTestDatabase, scannedClip } from '../testing/testDatabase';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  clip = await scannedClip(smallIntra);
});

const plain: ThroughputSettings = {
  kind: 'throughput',
  test: 'staircase',
  blockBytes: 2 ** 20,
  bytes: 7 * 2 ** 20,
  seconds: 1,
  repeats: 1,
  streams: 1,
  clipId: null,
  clipPath: null,
};

/** Keeps a finished throughput trial of the clip's volume. */
async function keep(
  settings: Partial<ThroughputSettings>,
  summary: Partial<ThroughputSummary>,
): Promise<string> {
  const volume = (await getVolume(clip.volumeId))!;
  const id = newId('t');
  await addTrials([
    {
      ...storageTrial(volume, { ...plain, ...settings }, null),
      id,
      rigId: await thisRigId(),
      status: 'done',
      summary: { repeats: [], read: null, write: null, ...summary },
    },
  ]);
  return id;
}

const needed = async (volumeId: string) => neededOf([volumeId], await neededByVolume());
const settingsOf = async (id: string) =>
  (await getTrial(id))!.settings as { underWay?: number; cache?: string };
const playback = async (change: object = {}) =>
  settingsOf(
    await startPlayback(await playbackInput.validate({ clipId: clip.id, scale: 'half', ...change })),
  );

test('a network volume is read with as many requests as its staircase found it to need, where none is chosen', async () => {
  expect(await playback()).not.toHaveProperty('underWay');
  await keep({}, { staircase: { steps: [], needed: 8 } });
  // It is no network volume yet: what a drive of this host needs is not what a player takes.
  expect(await needed(clip.volumeId)).toBe(1);
  await updateVolume(clip.volumeId, { kind: 'network' });
  await keep({}, { staircase: { steps: [], needed: 16 } });
  expect(await needed(clip.volumeId)).toBe(16);
  expect(await needed('another')).toBe(1);
  expect(await playback()).toMatchObject({ underWay: 16 });
  expect(await playback({ underWay: 3 })).toMatchObject({ underWay: 3 });
  expect(await playback({ underWay: 1 })).not.toHaveProperty('underWay');
  const [scrub] = await startScrub(await scrubInput.validate({ clipId: clip.id, gestures: ['jumps'] }));
  expect(await settingsOf(scrub!)).toMatchObject({ underWay: 16 });
});

test('through the cache and past it are kept as asked; warm is neither', async () => {
  expect(await playback({ cache: 'through' })).toMatchObject({ cache: 'through', warm: false });
  expect(await playback({ cache: 'through', warm: true })).not.toHaveProperty('cache');
  expect(await playback()).not.toHaveProperty('cache');
});

test('a throughput trial keeps what its test has, and what was read through the cache is not what a volume sustains', async () => {
  const start = async (change: object) =>
    settingsOf(
      await startThroughput(
        await throughputInput.validate({
          volumeId: clip.volumeId,
          test: 'sequential-read',
          bytes: 8 * 2 ** 20,
          blockBytes: 2 ** 20,
          seconds: 1,
          ...change,
        }),
      ),
    );
  expect(await start({ underWay: 4, cache: 'through' })).toMatchObject({ underWay: 4, cache: 'through' });
  expect(await start({})).toMatchObject({ underWay: 16, cache: 'past' });
  expect(await start({ test: 'random-read', cache: 'through' })).toMatchObject({ cache: 'past' });
  expect(await start({ test: 'staircase', underWay: 9 })).toMatchObject({ underWay: 1 });
  await expect(start({ test: 'staircase', blockBytes: 2 ** 22 })).rejects.toMatchObject({ field: 'bytes' });

  await expect(start({ underWay: 64, blockBytes: 2 ** 26, bytes: 2 ** 27 })).rejects.toMatchObject({
    field: 'underWay',
  });

  const past = await keep({ test: 'sequential-read' }, {});
  await keep({ test: 'sequential-read', cache: 'through' }, {});
  const latest = (await latestThroughput(await thisRigId())).filter(
    ({ subject, settings }) => subject.volumeId === clip.volumeId && settings.test === 'sequential-read',
  );
  expect(latest.map(({ id }) => id)).toEqual([past]);
});
