import { randomBytes, randomUUID } from 'node:crypto';
import type { InferType } from '@/core/edge/strict';
import { renditionInput } from '@/core/kinds/renditions';
import { presetOf, renditionName, settingsKey, type RenditionChoice } from '@/core/rendition/presets';
import { getClips } from '@/db/queries/clips';
import { addRenditions, listRenditionItems } from '@/db/queries/renditions';
import { hasFiles } from '@/engine/media/joinedFiles';
import { RequestError } from '../platform/errors';
import { requireVolume } from '../library/library';
import { plainFolder } from '../platform/paths';
import { sendTrial } from '../platform/trialQueue';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

/** Queues a batch of renditions. Returns its id. @throws RequestError when a clip or the volume cannot serve */
export async function startRenditions({
  clipIds,
  presetId,
  raster,
  volumeId,
  folder,
  lanes,
}: InferType<typeof renditionInput>): Promise<string> {
  const volume = await requireVolume(volumeId);
  if (!volume.facts.writable)
    throw new RequestError('chosen-volume-read-only', { name: volume.name }, 'volumeId');
  const clips = await getClips(clipIds);
  const choice: RenditionChoice = { presetId, raster };
  const into = plainFolder(folder, 'folder');
  const id = randomBytes(5).toString('hex');
  const taken = new Set<string>();
  const items = clipIds.map((clipId, position) => {
    const clip = clips.find((found) => found.id === clipId);
    if (!clip) throw new RequestError('some-clips-gone', {}, 'clipIds');
    if (clip.status !== 'ready' || !clip.format || !clip.identity)
      throw new RequestError('clip-unread', { path: clip.path, problem: clip.problem }, 'clipIds');
    if (clip.setup && hasFiles(clip.setup))
      throw new RequestError('rendition-of-files', { path: clip.path }, 'clipIds');
    if (presetOf(presetId).needsConstantRate && !clip.identity.timing.constant)
      throw new RequestError(
        'clip-rate-not-constant',
        { path: clip.path, preset: presetOf(presetId).name },
        'presetId',
      );
    return {
      id: randomUUID(),
      trialId: id,
      position,
      sourceClipId: clip.id,
      sourcePath: clip.path,
      sourceHash: clip.contentHash,
      sourceFormat: clip.format,
      sourceFrames: clip.frames ?? 0,
      sourceBytes: clip.sizeBytes,
      settingsKey: settingsKey(choice),
      status: 'waiting' as const,
      outputPath: freeName(`${into === '' ? '' : `${into}/`}${renditionName(clip.path, choice)}`, taken),
    };
  });
  const trial = {
    id,
    kind: 'renditions' as const,
    rigId: volume.rigId,
    volumeIds: [volume.id],
    simulated: volume.standIn !== null,
    demo: volume.demo,
    subject: {
      volumeName: volume.name,
      simulated: volume.standIn !== null,
      clips: items.length,
      firstClip: items[0]?.sourcePath ?? '',
    },
    settings: { ...choice, volumeId, folder: into, lanes },
  };
  await addRenditions(trial, items);
  await sendTrial(trial);
  return id;
}

/** A name that no other of the batch has: clips of different folders may be called alike. */
function freeName(path: string, taken: Set<string>): string {
  let free = path;
  for (let number = 2; taken.has(free); number++) free = path.replace(/\.mov$/, `_${number}.mov`);
  taken.add(free);
  return free;
}

export const renditions: KindServer<'renditions'> = {
  start: async (input) => [await startRenditions(input)],
  csv: async ({ id }) =>
    linesCsv(
      (await listRenditionItems(id)).map(({ work, frameCheck, sourceFormat: _format, ...item }) => ({
        ...item,
        ...(work ? { frames: work.frames, wallUs: work.wallUs, bytes: work.bytes } : {}),
        frameCheck,
      })),
    ),
  resumes: {
    from: ['paused', 'interrupted', 'crashed', 'hung', 'failed', 'cancelled', 'done'],
    hasMore: async (id) =>
      (await listRenditionItems(id)).some(({ status }) => status === 'waiting' || status === 'failed'),
  },
};
