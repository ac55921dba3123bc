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

/** Clips encoded at the same time: while one waits for its painter, the other keeps the cores busy. */
const lanes = 2;

/** Makes the media of the demo scenario that is not there yet and says how long it took. */
export async function generateDemoMedia(): Promise<string> {
  const folder = join(paths.media, demoVolume.folder);
  await mkdir(folder, { recursive: true });
  const begun = Date.now();
  const secondsSince = (start: number) => ((Date.now() - start) / 1000).toFixed(1);
  const waiting = [...demoClips];
  let made = 0;
  const work = async () => {
    for (let clip = waiting.shift(); clip; clip = waiting.shift()) {
      const clipBegun = Date.now();
      if (!(await encodeDemoClip(clip, folder))) continue;
      made++;
      process.stdout.write(`  ${clip.file}  ${clip.frames} frames in ${secondsSince(clipBegun)} s\n`);
    }
  };
  await Promise.all(Array.from({ length: lanes }, work));
  if (made > 0) process.stdout.write(`Demo media: ${made} clips made in ${secondsSince(begun)} s.\n`);
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
