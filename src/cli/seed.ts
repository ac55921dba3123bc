import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { getRig, renameRig, saveRig } from '@/db/queries/rigs';
import { addVolume, findVolumeByPath } from '@/db/queries/volumes';
import { demoClips } from '@/demo/clips';
import { encodeDemoClip } from '@/demo/encodeClip';
import { readRigIdentity, thisRigId } from '@/engine/rig';
import { inspectFolder } from '@/engine/volume';
import { scanVolume } from '@/server/runner/scan';
import { paths } from './home';

const demoRigName = 'Slipway';
const demoVolume = { id: 'volume-demo-edit-room', name: 'Edit room internal', kind: 'internal' as const, folder: 'edit-room-internal' };

/** Makes the media of the demo scenario that is not there yet and says how long it took. */
export async function generateDemoMedia(): Promise<string> {
  const folder = join(paths.media, demoVolume.folder);
  await mkdir(folder, { recursive: true });
  const begun = Date.now();
  let made = 0;
  for (const clip of demoClips) {
    const clipBegun = Date.now();
    if (!(await encodeDemoClip(clip, folder))) continue;
    made++;
    process.stdout.write(`  ${clip.file}  ${clip.frames} frames in ${((Date.now() - clipBegun) / 1000).toFixed(1)} s\n`);
  }
  if (made > 0) process.stdout.write(`Demo media: ${made} clips made in ${((Date.now() - begun) / 1000).toFixed(1)} s.\n`);
  return folder;
}

/** Enters the demo scenario: the rig's name, a volume, and its clips. Safe to repeat. */
export async function seedDemo(folder: string): Promise<void> {
  const rigId = await thisRigId();
  if (!(await getRig(rigId))) await saveRig(rigId, await readRigIdentity(), demoRigName);
  else if ((await getRig(rigId))?.name === 'This rig') await renameRig(rigId, demoRigName);
  const { path, facts } = await inspectFolder(folder);
  const known = await findVolumeByPath(rigId, path);
  if (!known) await addVolume({ id: demoVolume.id, rigId, name: demoVolume.name, kind: demoVolume.kind, path, facts, demo: 1 });
  await scanVolume(known?.id ?? demoVolume.id);
}
