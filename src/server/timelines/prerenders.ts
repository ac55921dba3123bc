import { mediaRefOf } from '@/core/timeline/mediaRef';
import { createHash } from 'node:crypto';
import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { layOut, pictureText, type IntermediateId } from '@/core/tasks/prerender';
import { plainName } from '@/core/simulated';
import type { PrerenderedPart } from '@/core/timeline/flatten';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { getClips } from '@/db/queries/clips';
import { forgetPrerender, listPrerenders, type PrerenderFile } from '@/db/queries/prerenders';
import type { MediaUse } from '@/core/timeline/subject';
import { RequestError } from '../platform/errors';
import { mediaUseOf, type MediaChoice } from './timelineMedia';

/** Folder of a volume that rendered parts lie in: hidden, so that no scan takes them for media. */
export const prerenderFolder = '.navvy-prerenders';

/** Whether a rendered part still holds what its timeline shows. */
export type PrerenderState = 'current' | 'stale' | 'missing';

/** A rendered part of a timeline, as its page shows it. */
export interface PrerenderView {
  readonly id: string;
  readonly from: number;
  readonly to: number;
  readonly state: PrerenderState;
  readonly intermediate: IntermediateId;
  readonly read: MediaChoice['read'];
  readonly volume: string;
  readonly path: string;
  readonly bytes: number;
  readonly trialId: string;
  readonly createdAt: Date;
}

/** Hash of all that decides the pictures of a stretch. */
export function picturesOf(timeline: Timeline, from: number, to: number): string {
  return createHash('sha256')
    .update(pictureText(timeline, from, to))
    .digest('hex');
}

async function stateOf(
  timeline: Timeline,
  { from, to, pictures, volumePath, path, sizeBytes }: PrerenderFile,
): Promise<PrerenderState> {
  if (to > lengthOf(timeline) || picturesOf(timeline, from, to) !== pictures) return 'stale';
  const found = await stat(join(volumePath, path)).catch(() => null);
  return found?.size === sizeBytes ? 'current' : 'missing';
}

/** All rendered parts of a timeline, the newest first. */
export async function readPrerenders(timelineId: string, document: Timeline): Promise<PrerenderView[]> {
  return Promise.all(
    (await listPrerenders(timelineId)).map(async (row) => ({
      id: row.clipId,
      from: row.from,
      to: row.to,
      state: await stateOf(document, row),
      intermediate: row.intermediate,
      read: row.read,
      volume: plainName(row.volumeName, row.volumeStandIn !== null),
      path: row.path,
      bytes: row.sizeBytes,
      trialId: row.trialId,
      createdAt: row.createdAt,
    })),
  );
}

/**
 * What of a timeline's rendered parts a run can use: those that hold what it shows, made of the form of the footage that it reads.
 * @throws RequestError when there is none
 */
export async function usablePrerenders(
  timelineId: string,
  document: Timeline,
  { read }: Pick<MediaChoice, 'read'>,
): Promise<{ parts: PrerenderedPart[]; media: Record<string, MediaUse> }> {
  const rows = await listPrerenders(timelineId);
  const usable: PrerenderFile[] = [];
  const unfit = new Map<string, number>();
  for (const row of rows) {
    const state = row.read === read ? await stateOf(document, row) : `made of ${row.read}`;
    if (state === 'current') usable.push(row);
    else unfit.set(state, (unfit.get(state) ?? 0) + 1);
  }
  if (usable.length === 0)
    throw rows.length === 0
      ? new RequestError('nothing-prerendered', {}, 'prerendered')
      : new RequestError(
          'prerenders-unfit',
          { unfit: [...unfit].map(([why, number]) => `${number} ${why}`).join(', ') },
          'prerendered',
        );
  const clips = new Map((await getClips(usable.map(({ clipId }) => clipId))).map((clip) => [clip.id, clip]));
  const media: Record<string, MediaUse> = {};
  for (const { clipId } of usable) {
    const clip = clips.get(clipId);
    const ref = clip && mediaRefOf(clip);
    const use = ref && mediaUseOf(ref, clip, 'pre-render');
    if (use) media[clipId] = use;
  }
  const parts = layOut(
    usable.flatMap(({ clipId, from, to }) => (media[clipId] ? [{ media: clipId, from, to }] : [])),
  );
  return { parts, media };
}

/** Removes a rendered part with its file. @throws RequestError when it is none of this timeline */
export async function removePrerender(timelineId: string, id: string): Promise<void> {
  const row = (await listPrerenders(timelineId)).find(({ clipId }) => clipId === id);
  if (!row) throw new RequestError('no-such-prerender');
  await discardPrerender(row);
}

/** Takes a rendered part away, file first: what stays of a failure is still in the list. */
export async function discardPrerender({
  clipId,
  volumePath,
  path,
}: Pick<PrerenderFile, 'clipId' | 'volumePath' | 'path'>): Promise<void> {
  await rm(join(volumePath, path), { force: true });
  await forgetPrerender(clipId);
}
