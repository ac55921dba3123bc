import { randomUUID } from 'node:crypto';
import { footageName, groupFootage, type FootageClip, type FootageRank } from '@/core/media/footage';
import { clipsForGrouping, getClips, updateClips, type ClipWithVolume } from '@/db/queries/clips';
import { saveGroups, type GroupChange } from '@/db/queries/footage';
import { RequestError } from '../platform/errors';

/** Groups the clips of a rig by footage anew. What was put together or taken out by hand stays so. */
export async function regroup(rigId: string): Promise<void> {
  const rows = await clipsForGrouping(rigId);
  const present = new Map(rows.map(({ id, footageId }) => [id, footageId]));
  const groups = groupFootage(
    rows.map((row): FootageClip => ({
      id: row.id,
      path: row.path,
      contentHash: row.contentHash,
      startTimecode: row.startTimecode,
      frames: row.frames,
      rate: row.format?.rate ?? null,
      ...rankOf(row),
      fingerprint: row.fingerprint && row.fingerprint.length > 0 ? row.fingerprint : null,
      fixedFootage: row.footageHand === 'grouped' ? row.footageId : null,
      alone: row.footageHand === 'alone',
    })),
  );
  const taken = new Set<string>();
  const changes: GroupChange[] = groups.map(({ clips, name, fixed }) => {
    // A group keeps the footage that most of its clips have already.
    const counts = new Map<string, number>();
    for (const id of clips) {
      const footageId = present.get(id);
      if (footageId && !taken.has(footageId)) counts.set(footageId, (counts.get(footageId) ?? 0) + 1);
    }
    const footageId = fixed ?? [...counts].sort(([, a], [, b]) => b - a)[0]?.[0] ?? newFootageId();
    taken.add(footageId);
    return { footageId, name, joining: clips.filter((id) => present.get(id) !== footageId) };
  });
  await saveGroups(
    rigId,
    changes.filter(({ joining }) => joining.length > 0),
  );
}

/** What tells the original among the forms of its footage. */
export function rankOf({
  format,
  meanBitsPerSecond,
}: Pick<ClipWithVolume, 'format' | 'meanBitsPerSecond'>): FootageRank {
  return {
    pixels: format ? format.width * format.height : 0,
    bitDepth: format?.bitDepth ?? 0,
    meanBitsPerSecond: meanBitsPerSecond ?? 0,
  };
}

const newFootageId = () => `footage-${randomUUID()}`;

/** Puts clips together as one footage, by hand. @throws RequestError when one is gone */
export async function groupByHand(rigId: string, clipIds: readonly string[]): Promise<void> {
  const clips = await requireClips(clipIds);
  if (clips.length < 2) throw new RequestError('two-clips-needed', {}, 'clipIds');
  const known = clips.find(({ footageHand }) => footageHand === 'grouped')?.footageId ?? newFootageId();
  await saveGroups(
    rigId,
    [{ footageId: known, name: footageName(clips[0]?.path ?? ''), joining: clips.map(({ id }) => id) }],
    true,
  );
  await regroup(rigId);
}

/** Takes clips out of their footage; the automatic grouping leaves them alone from then on. */
export async function takeOut(rigId: string, clipIds: readonly string[]): Promise<void> {
  const clips = await requireClips(clipIds);
  await updateClips(
    clips.map(({ id }) => id),
    { footageId: null, footageHand: 'alone' },
  );
  await regroup(rigId);
}

/** Leaves clips to the automatic grouping again. */
export async function groupAutomatically(rigId: string, clipIds: readonly string[]): Promise<void> {
  const clips = await requireClips(clipIds);
  await updateClips(
    clips.map(({ id }) => id),
    { footageHand: null },
  );
  await regroup(rigId);
}

async function requireClips(ids: readonly string[]) {
  const clips = await getClips(ids);
  if (clips.length < new Set(ids).size) throw new RequestError('some-clips-gone', {}, 'clipIds');
  return clips;
}
