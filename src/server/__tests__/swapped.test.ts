import { rename, symlink } from 'node:fs/promises';
import { join } from 'node:path';
import { standInDevices } from '@/core/decode/standIns';
import type { TrialKind } from '@/core/kinds/kinds';
import { listClipsOfVolume, type ClipWithVolume } from '@/db/queries/clips';
import { saveDevices } from '@/db/queries/rigs';
import { listRenditionItems } from '@/db/queries/renditions';
import { getTrial } from '@/db/queries/trials';
import { getVolume } from '@/db/queries/volumes';
import { smallIntra } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { uploadClip } from '../media';
import { scanVolume } from '../runner/scan';
import { startTrials } from '../trialStart';
import { emptyVolume, measureTrial, onTestDatabase, scannedClip, testReader } from './testDatabase';

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
  // The same clips lie elsewhere: whoever follows the link finds all that it looks for.
  const folder = clip.volumePath;
  await rename(folder, `${folder}-elsewhere`);
  await symlink(`${folder}-elsewhere`, folder);
});

const bodies = (): { readonly [Kind in TrialKind]?: object } => ({
  playback: { clipId: clip.id, scale: 'half', policy: 'hold-time', threads: 0, warm: false },
  scrub: { clipId: clip.id, gestures: ['step-forward'], seed: 4, speed: 4, scale: 'half' },
  ramp: { clipId: clip.id, family: 'streams', most: 2, seconds: 1, scales: ['quarter'] },
  calibration: { clipId: clip.id },
  'decode-rate': { clipIds: [clip.id], passSeconds: 0.2, passes: 1 },
  'decode-support': { clipIds: [clip.id], deviceIds: [standInDevices[0]!.id], passSeconds: 0.2 },
  'decode-streams': { clipId: clip.id, scale: 'quarter', seconds: 1, mostStreams: 2 },
  throughput: {
    volumeId: clip.volumeId,
    test: 'frame-paced',
    clipId: clip.id,
    blockBytes: 2 ** 20,
    bytes: 2 ** 24,
    seconds: 5,
    repeats: 1,
  },
  'streams-carried': { clipId: clip.id, seconds: 2, mostStreams: 2 },
  copy: { volumeId: clip.volumeId, folder: '', destinations: [{ volumeId: target.id, folder: 'card' }] },
  export: {
    clipId: clip.id,
    codec: 'h264',
    picture: '8-bit 4:2:0',
    control: 'quality',
    quality: 24,
    speed: 'fastest',
    targetVolumeId: target.id,
  },
  'pre-render': { clipId: clip.id, intermediate: 'mjpeg', targetVolumeId: target.id },
  analysis: { clipId: clip.id, work: 'track', points: 20, targetVolumeId: target.id },
  opening: { clipId: clip.id, lanes: 1 },
  soak: { minutes: 0.1, work: { kind: 'playback', clipId: clip.id, scale: 'half' } },
  renditions: {
    clipIds: [clip.id],
    presetId: 'mjpeg',
    raster: 'half',
    volumeId: target.id,
    folder: 'proxies',
  },
});

test.each<TrialKind>([
  'playback',
  'scrub',
  'ramp',
  'calibration',
  'decode-rate',
  'decode-support',
  'decode-streams',
  'throughput',
  'streams-carried',
  'copy',
  'export',
  'pre-render',
  'analysis',
  'opening',
  'soak',
  'renditions',
])('%s reads nothing of a volume that has become a link, and says so', async (kind) => {
  const asked = await startTrials({ kind, ...bodies()[kind] }).catch((error: unknown) => error as Error);
  if (asked instanceof Error) {
    expect(asked.message).toContain('leads by a link');
    return;
  }
  const [id] = asked;
  await measureTrial(id!);
  const { status, outcome, summary, detail } = (await getTrial(id!))!;
  const items = await listRenditionItems(id!);
  expect(`${outcome} ${detail} ${items.map((item) => item.outcome).join()}`).toMatch(/leads by a link/);
  expect(status === 'done' ? summary : null).toEqual(
    kind === 'renditions' ? expect.objectContaining({ made: 0, failed: 1 }) : null,
  );
});

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
