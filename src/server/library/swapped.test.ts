import { rename, symlink } from 'node:fs/promises';
import { join } from 'node:path';
import { standInDevices } from '@/core/decode/standIns';
import { trialKinds } from '@/core/kinds/kinds';
import { listClipsOfVolume, type ClipWithVolume } from '@/db/queries/clips';
import { saveDevices } from '@/db/queries/rigs';
import { listRenditionItems } from '@/db/queries/renditions';
import { getTrial } from '@/db/queries/trials';
import { getVolume } from '@/db/queries/volumes';
import { smallIntra } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { uploadClip } from './media';
import { scanVolume } from '../runner/shared/scan';
import { startTrials } from '../kinds/trialStart';
import { saveHashList } from '@/db/queries/storageRecords';
import { askedOfEach, heldList } from '../testing/askedOfEach';
import { emptyVolume, measureTrial, onTestDatabase, scannedClip, testReader } from '../testing/testDatabase';

onTestDatabase();

let clip: ClipWithVolume;
let target: { id: string; folder: string };

beforeAll(async () => {
  clip = await scannedClip(smallIntra);
  target = await emptyVolume();
  await saveDevices(
    await thisRigId(),
    standInDevices.map(({ id, name, about }) => ({ id, name, about, simulated: true, usable: true })),
  );
  await saveHashList(heldList);
  // The same clips lie elsewhere: whoever follows the link finds all that it looks for.
  const folder = clip.volumePath;
  await rename(folder, `${folder}-elsewhere`);
  await symlink(`${folder}-elsewhere`, folder);
});

/** Of a volume's test it is asked by the clip that it reads, and of a soak no longer than it has to be. */
const bodies = () => {
  const asked = askedOfEach(clip, target.id);
  return {
    ...asked,
    throughput: { ...asked.throughput, volumeId: clip.volumeId, test: 'frame-paced', clipId: clip.id },
    soak: { ...asked.soak, minutes: 0.1 },
  };
};

test.each(trialKinds.filter((kind) => kind !== 'self-check'))(
  '%s reads nothing of a volume that has become a link, and says so',
  async (kind) => {
    const asked = await startTrials({ kind, ...bodies()[kind] }).catch((error: unknown) => error as Error);
    if (asked instanceof Error) {
      expect(asked.message).toContain('leads by a link');
      return;
    }
    const [id] = asked;
    await measureTrial(id);
    const { status, outcome, summary, detail } = (await getTrial(id))!;
    const items = await listRenditionItems(id);
    expect(`${outcome} ${detail} ${items.map((item) => item.outcome).join()}`).toMatch(/leads by a link/);
    expect(status === 'done' ? summary : null).toEqual(
      kind === 'renditions' ? expect.objectContaining({ made: 0, failed: 1 }) : null,
    );
  },
);

test('neither a scan nor an upload follows the link, and the clips stay as they were known', async () => {
  const before = await listClipsOfVolume(clip.volumeId);
  await scanVolume(clip.volumeId, await testReader());
  expect((await getVolume(clip.volumeId))?.scan?.error).toMatch(/leads by a link/);
  expect(await listClipsOfVolume(clip.volumeId)).toEqual(before);
  const body = new Blob(['x']).stream() as unknown as Parameters<typeof uploadClip>[3];
  await expect(uploadClip(clip.volumeId, 'new.mov', '', body)).rejects.toThrow('leads by a link');
  const path = join(clip.volumePath, clip.path);
  await expect((await testReader()).ask({ kind: 'probe', path })).rejects.toThrow('leads by a link');
});
