import { fileName } from '@/core/media/fileName';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Brief, BriefCamera } from '@/core/choose/brief';
import { decodePacketTable } from '@/core/media/packetTable';
import { addBrief, getBrief } from '@/db/queries/briefs';
import { getPacketTable, listClips, type ClipWithVolume } from '@/db/queries/clips';
import { getRig } from '@/db/queries/rigs';
import { failingCardClip } from '@/demo/clips';
import { madeUpBundles, madeUpRigIds, scenarioStreams, type RigClip } from '@/demo/rigs';
import { demoVolumes } from '@/demo/volumes';
import { thisRigId } from '@/engine/rig';
import { measureCells, readBriefPage } from '@/server/decide/briefs';
import { importBundle } from '@/server/exchange/importBundle';
import { loadTimelineId } from '@/server/decide/decision';
import { closeQueue } from '@/server/platform/queue';
import { paths } from './home';

/** Address of the demo's brief. */
export const demoBriefId = 'tidewrack';

/** What the scenario's cameras bring in a day. */
const cameraHours: readonly (readonly [string, string, number])[] = [
  ['TW_WALL_0107.', 'Wall camera', 2.5],
  ['TW_MARSH', 'Marsh camera', 1.5],
  ['TW_KITE_0031', 'Kite camera', 0.75],
];
const homeId = demoVolumes[0]?.id ?? '';

/** The scenario's brief with the results of its made-up rigs, and the first runs on this one. Does nothing when the brief is there. */
export async function seedBrief(): Promise<void> {
  const rigId = await thisRigId();
  const clips = (await listClips(rigId)).filter(
    ({ volumeId, path, status, format, contentHash, frames }) =>
      volumeId === homeId &&
      path !== failingCardClip.file &&
      status === 'ready' &&
      format &&
      contentHash !== null &&
      (frames ?? 0) > 1,
  );
  // Computed once: at every later start they are there.
  if (!(await Promise.all(madeUpRigIds.map(getRig))).every(Boolean)) await importMadeUpRigs(clips);
  if (await getBrief(demoBriefId)) return;
  const cameras = cameraHours.flatMap(([part, name, hoursPerDay], index): BriefCamera[] => {
    const clip = clips.find(({ path }) => path.includes(part));
    return clip?.format && clip.contentHash !== null
      ? [
          {
            id: `c${index + 1}`,
            name,
            hoursPerDay,
            contentHash: clip.contentHash,
            clipName: fileName(clip.path),
            format: clip.format,
            meanBitsPerSecond: clip.meanBitsPerSecond ?? 0,
            peakBitsPerSecond: clip.peakBitsPerSecond ?? 0,
          },
        ]
      : [];
  });
  if (cameras.length < cameraHours.length) return;
  const at = (rig: string, volume: string, price: number) => ({
    rigId: rig,
    volumeId: `${rig}:volume-demo-${volume}`,
    price,
  });
  const [quoin = '', bollard = ''] = madeUpRigIds;
  const document: Brief = {
    question: 'Four angles at once, at full scale: from which volume, and do we need proxies?',
    cameras,
    days: 24,
    streams: scenarioStreams,
    looks: 0,
    scale: 'full',
    speed: 1,
    margin: 0.25,
    grade: 'workable',
    budget: 5_000,
    cardBytesPerSecond: null,
    places: [
      at(quoin, 'shuttle', 180),
      at(quoin, 'store-1', 4_200),
      at(quoin, 'store-5', 4_200),
      at(bollard, 'shuttle', 180),
      at(bollard, 'store-5', 4_200),
      { rigId, volumeId: homeId, price: 0 },
    ],
  };
  await addBrief({ id: demoBriefId, rigId, name: 'Tidewrack, the harbour wall', document, demo: 1 });
  // One cell is left for the newcomer to fill.
  const { decision } = await readBriefPage(demoBriefId);
  const left = decision.rows.find(({ name }) => name === 'Marsh camera')?.id;
  await measureCells(
    demoBriefId,
    decision.cells
      .filter((cell) => cell.rigId === rigId && cell.rowId !== left && cell.cannot === null)
      .map(({ rowId, volumeId }) => ({ rowId, volumeId })),
    1,
  );
  await closeQueue();
}

/** Computes the made-up rigs' results from the demo's own clips, leaves them as bundle files, and takes them in. */
async function importMadeUpRigs(clips: readonly ClipWithVolume[]): Promise<void> {
  const rigClips: RigClip[] = [];
  for (const clip of clips) {
    const packets = await getPacketTable(clip.id);
    const { format, structure, contentHash, frames, path, startTimecode } = clip;
    if (!packets || !format || !structure || contentHash === null || frames === null) continue;
    const name = fileName(path);
    rigClips.push({
      path,
      contentHash,
      format,
      structure,
      meanBitsPerSecond: clip.meanBitsPerSecond ?? 0,
      packets: decodePacketTable(packets),
      ref: {
        clipId: null,
        name,
        reel: null,
        startTimecode,
        contentHash,
        rate: format.rate,
        frames,
        width: format.width,
        height: format.height,
      },
    });
  }
  const folder = join(paths.media, 'result-bundles');
  mkdirSync(folder, { recursive: true });
  for (const bundle of madeUpBundles(rigClips, (contentHash, streams) =>
    loadTimelineId(contentHash, streams, 0),
  )) {
    const text = JSON.stringify(bundle, null, 1);
    writeFileSync(join(folder, `${bundle.rig.name.toLowerCase()}.json`), text);
    await importBundle(text, { demo: 1 });
  }
}
