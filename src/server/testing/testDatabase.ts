import { randomBytes } from 'node:crypto';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { closeConnection, connection } from '@/db/client';
import { getClip, listClipsOfVolume, type ClipWithVolume } from '@/db/queries/clips';
import { saveRig } from '@/db/queries/rigs';
import { addTrials, type TrialIdentity } from '@/db/queries/trials';
import { addVolume } from '@/db/queries/volumes';
import type { NewTrial } from '@/db/kinds';
import type { PlayedKind } from '@/core/kinds/kinds';
import { plainSettings, smallClip, workFolder } from '@/engine/testing/testTrial';
import type { DemoClip } from '@/demo/clips';
import { readRigIdentity, thisRigId } from '@/engine/rig';
import { inspectFolder } from '@/engine/volume';
import { closeEvents } from '../platform/events';
import { closeQueue } from '../platform/queue';
import { MediaReader } from '../runner/shared/mediaReader';
import { PictureServer } from '../runner/pictureServer';
import { scanVolume } from '../runner/shared/scan';
import { TrialRun, type RunParts } from '../runner/trialRun';
import { readLibrary } from '../library/clipList';

/** Server tests run on a database of their own that ./navvy test makes; each file begins with an empty one and this rig. */
export function onTestDatabase(): void {
  beforeAll(async () => {
    process.env.NAVVY_ROOTS = await workFolder();
    await connection().pool.query(
      'truncate rigs, volumes, clips, packet_tables, trials, trace_batches, records, slot_charges, samples, runners, block_batches, copy_files, camera_formats, footage, previews, rendition_items, timelines, timeline_versions, prerenders, deliveries, looks, gestures, plans, plan_cells, plan_steps, briefs, annotations cascade',
    );
    await saveRig(await thisRigId(), await readRigIdentity(), 'Slipway');
  });
  afterAll(async () => {
    reader?.stop();
    await closeEvents();
    await closeQueue();
    await closeConnection();
  });
}

let reader: MediaReader | null = null;

/** The process that reads media, shared by the tests of a file. */
export async function testReader(): Promise<MediaReader> {
  reader ??= new MediaReader(join(await workFolder(), 'build', 'media.mjs'), 20_000);
  return reader;
}

/** All files of the library, in order of their paths. */
export const libraryClips = async () => {
  const { rows } = await readLibrary({ by: 'file', size: '500' });
  return rows.map(({ others: _others, ...clip }) => clip);
};

export const newId = (kind: string) => `${kind}-${randomBytes(4).toString('hex')}`;

/** A volume that is an empty folder, already in the library. */
export async function emptyVolume(demo = 0): Promise<{ id: string; folder: string }> {
  const id = newId('volume');
  const folder = join(await workFolder(), id);
  await mkdir(folder);
  await addVolume({
    id,
    rigId: await thisRigId(),
    name: `Card ${id}`,
    kind: 'card',
    demo,
    ...(await inspectFolder(folder)),
  });
  return { id, folder };
}

/** A volume over the folder of a generated clip, scanned; and the clip. */
export async function scannedClip(clip: DemoClip, demo = 0): Promise<ClipWithVolume> {
  const path = await smallClip(clip);
  const id = newId('volume');
  const folder = path.slice(0, -clip.file.length);
  await addVolume({
    id,
    rigId: await thisRigId(),
    name: 'Shuttle SSD',
    kind: 'external',
    demo,
    ...(await inspectFolder(join(folder, 'small'))),
  });
  await scanVolume(id, await testReader());
  const row = (await listClipsOfVolume(id)).find((found) => clip.file.endsWith(found.path));
  return (await getClip(row!.id))!;
}

/** Takes a queued trial to its end as the runner does. @param meanwhile called when a process of it runs. Returns whose processes ran */
export async function measureTrial(
  trialId: string,
  meanwhile: (run: TrialRun, pid: number) => void = () => undefined,
  change: Partial<RunParts> = {},
): Promise<(number | null)[]> {
  const folder = await workFolder();
  const pids: (number | null)[] = [];
  const run: TrialRun = new TrialRun(trialId, {
    processPath: (name) => join(folder, 'build', `${name}.mjs`),
    pictures: new PictureServer(),
    reader: await testReader(),
    watchdogMs: 20_000,
    onTrialPid: (pid) => {
      pids.push(pid);
      if (pid !== null) meanwhile(run, pid);
    },
    ...change,
  });
  await run.run();
  return pids;
}

/** Writes a trial of a clip into the database as the server does, without queueing it. */
export async function storedTrial(
  clip: ClipWithVolume,
  change: Partial<NewTrial<PlayedKind> & TrialIdentity> = {},
): Promise<string> {
  const id = randomBytes(5).toString('hex');
  await addTrials([
    {
      id,
      kind: 'playback',
      rigId: await thisRigId(),
      clipId: clip.id,
      status: 'queued',
      progress: { slotCount: clip.frames! },
      volumeIds: [clip.volumeId],
      settings: { ...plainSettings, scale: 'quarter' },
      subject: {
        clipPath: clip.path,
        volumeName: clip.volumeName,
        volumeKind: 'external',
        contentHash: clip.contentHash,
        format: clip.format!,
        structure: clip.structure!,
        frames: clip.frames!,
        startTimecode: clip.startTimecode,
        volumeFacts: {
          fileSystem: 'ext4',
          device: 'none',
          mountPoint: '/',
          sizeBytes: 1,
          freeBytes: 1,
          rotational: null,
          writable: true,
        },
      },
      ...change,
    },
  ]);
  return id;
}
