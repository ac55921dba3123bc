import { mediaRefOf } from '@/core/timeline/mediaRef';
import { copyFile, link, mkdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { getRig, saveRig, updateRig } from '@/db/queries/rigs';
import { lengthOf, type MediaRef } from '@/core/timeline/model';
import { listClips } from '@/db/queries/clips';
import { addLook, addTimeline, timelineExists } from '@/db/queries/timelines';
import { addVolume, getVolume } from '@/db/queries/volumes';
import { demoClips, failingCardClip, lostFrames } from '@/demo/clips';
import { encodeDemoClip } from '@/demo/encodeClip';
import { demoLook, demoTimelineId, reelOne } from '@/demo/timelines';
import { demoVolumes, type DemoVolume } from '@/demo/volumes';
import { writeOver } from '@/demo/writeOver';
import { errorCode } from '@/engine/errors';
import { readRigIdentity, thisRigId } from '@/engine/rig';
import { inspectFolder } from '@/engine/volume';
import { MediaReader } from '@/server/runner/shared/mediaReader';
import { scanVolume } from '@/server/runner/shared/scan';

import { buildProcesses } from './buildApp';
import { paths } from './home';
import { seedBrief } from './seedBrief';

const demoRigName = 'Slipway';
const mediaFolder = 'edit-room-internal';

/** Clips encoded at the same time: while one waits for its painter, the other keeps the cores busy. */
const lanes = 2;

const allClips = [...demoClips, failingCardClip];

async function loseFrames(path: string): Promise<void> {
  await writeOver(path, lostFrames.beginning, 'beginning');
  await writeOver(path, lostFrames.middle, 'middle');
}

/** Makes the media of the demo scenario that is not there yet and says how long it took. */
export async function generateDemoMedia(): Promise<string> {
  const folder = join(paths.media, mediaFolder);
  await mkdir(folder, { recursive: true });
  const begun = Date.now();
  const secondsSince = (start: number) => ((Date.now() - start) / 1000).toFixed(1);
  const waiting = [...allClips];
  let made = 0;
  const work = async () => {
    for (let clip = waiting.shift(); clip; clip = waiting.shift()) {
      const clipBegun = Date.now();
      if (!(await encodeDemoClip(clip, folder, clip === failingCardClip ? loseFrames : undefined))) continue;
      made++;
      process.stdout.write(`  ${clip.file}  ${clip.frames} frames in ${secondsSince(clipBegun)} s\n`);
    }
  };
  await Promise.all(Array.from({ length: lanes }, work));
  if (made > 0) process.stdout.write(`Demo media: ${made} clips made in ${secondsSince(begun)} s.\n`);
  return folder;
}

/** Puts the clips of a demo volume into its folder: the same bytes under another name where the file system can, else a copy. */
async function fillFolder(media: string, { folder, holds }: DemoVolume): Promise<string> {
  const target = join(paths.media, folder);
  for (const { file } of allClips.filter((clip) => holds.some((start) => clip.file.startsWith(start)))) {
    const path = join(target, file);
    await mkdir(dirname(path), { recursive: true });
    await link(join(media, file), path).catch(async (error: unknown) => {
      if (errorCode(error) !== 'EEXIST') await copyFile(join(media, file), path);
    });
  }
  return target;
}

/** Enters the demo scenario: the rig's name, its volumes, and their clips. Safe to repeat. @param media folder of the demo clips */
export async function seedDemo(media: string): Promise<void> {
  const rigId = await thisRigId();
  await buildProcesses();
  const reader = new MediaReader(join(paths.build, 'media.mjs'), 30_000);
  if (!(await getRig(rigId))) await saveRig(rigId, await readRigIdentity(), demoRigName);
  else if ((await getRig(rigId))?.name === 'This rig') await updateRig(rigId, { name: demoRigName });
  for (const volume of demoVolumes) await enterVolume(volume, media, rigId);
  const [home, ...others] = demoVolumes;
  if (home) await scanVolume(home.id, reader);
  // The timeline and the brief are of the edit room's clips alone: the rest is read beside them.
  const scanOthers = async () => {
    for (const { id } of others) await scanVolume(id, reader);
  };
  const enterWork = async () => {
    await seedTimeline();
    await seedBrief();
  };
  await Promise.all([scanOthers(), enterWork()]);
  reader.stop();
}

async function enterVolume(volume: DemoVolume, media: string, rigId: string): Promise<void> {
  const { path, facts } = await inspectFolder(await fillFolder(media, volume));
  const { id, name, kind, standIn, notes, price } = volume;
  if (await getVolume(id)) return;
  await addVolume({
    id,
    rigId,
    name,
    kind,
    path,
    facts,
    demo: 1,
    standIn,
    notes,
    price,
    link: standIn?.link.label ?? '',
    cacheBytes: standIn?.cache.bytes ?? 0,
  });
}

/** A demo clip of the edit room's volume as timelines name it. @throws Error when it is not there */
export async function reelClip(part: string): Promise<MediaRef> {
  const clip = (await listClips(await thisRigId())).find(
    ({ volumeId, path }) => volumeId === demoVolumes[0]?.id && path.includes(part),
  );
  const ref = clip && mediaRefOf(clip);
  if (!ref) throw new Error(`The demo clip ${part} is not in the library.`);
  return ref;
}

/** The demo's timeline and look, unless they are there. */
async function seedTimeline(): Promise<void> {
  const { id: lookId, ...look } = demoLook;
  await addLook({ id: lookId, ...look });
  const rigId = await thisRigId();
  if (await timelineExists(demoTimelineId)) return;
  const clips = (await listClips(rigId)).filter(({ volumeId }) => volumeId === demoVolumes[0]?.id);
  const find = (part: string): MediaRef | null => {
    const clip = clips.find(({ path }) => path.includes(part));
    return clip ? mediaRefOf(clip) : null;
  };
  const [wall, uhd, marsh, kite] = ['TW_WALL_0107.', 'TW_WALL_0119', 'TW_MARSH', 'TW_KITE_0031'].map(find);
  if (!wall || !uhd || !marsh || !kite) return;
  const document = reelOne({ wall, uhd, marsh, kite, still: find('TW_CHART') });
  await addTimeline({
    id: demoTimelineId,
    rigId,
    name: document.name,
    document,
    slots: lengthOf(document),
    demo: 1,
  });
}
