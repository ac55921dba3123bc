import { fileName } from '@/core/media/fileName';
import { originalFirst } from '@/core/media/footage';
import type { Format } from '@/core/media/format';
import { listClips, type ClipWithVolume } from '@/db/queries/clips';
import { rankOf } from './footage';

/** A content that can be chosen, standing for all files that hold it. */
export interface ClipChoice {
  readonly clip: ClipWithVolume & { readonly format: Format };
  /** Other names that files of the same content bear, without their folders. */
  readonly also: readonly string[];
  /** Another content of its footage is the original. */
  readonly proxy: boolean;
}

/**
 * A rig's clips that can be played, each content once, originals before proxies and
 * in order of file names: the wanted file stands for its content, else one on a real volume rather than a simulated one.
 */
export async function listClipChoices(
  rigId: string,
  wantedClipId: string | null = null,
): Promise<ClipChoice[]> {
  const found = new Map<string, { clip: ClipChoice['clip']; names: Set<string> }>();
  const rank = ({ id, volumeStandIn }: ClipWithVolume) =>
    id === wantedClipId ? 0 : volumeStandIn === null ? 1 : 2;
  for (const clip of (await listClips(rigId)).toSorted(
    (a, b) => rank(a) - rank(b) || fileName(a.path).localeCompare(fileName(b.path)),
  )) {
    const { format } = clip;
    if (clip.status !== 'ready' || !format || (clip.frames ?? 0) < 2) continue;
    const key = clip.contentHash ?? clip.id;
    const same = found.get(key);
    if (same) same.names.add(fileName(clip.path));
    else found.set(key, { clip: { ...clip, format }, names: new Set([fileName(clip.path)]) });
  }
  const originals = new Map<string, ClipChoice['clip']>();
  for (const { clip } of found.values()) {
    const best = clip.footageId === null ? undefined : originals.get(clip.footageId);
    if (clip.footageId !== null && (!best || originalFirst(rankOf(clip), rankOf(best)) < 0))
      originals.set(clip.footageId, clip);
  }
  return [...found.values()]
    .map(({ clip, names }) => ({
      clip,
      also: [...names].filter((name) => name !== fileName(clip.path)),
      proxy: clip.footageId !== null && originals.get(clip.footageId) !== clip,
    }))
    .toSorted(
      (a, b) =>
        Number(a.proxy) - Number(b.proxy) || fileName(a.clip.path).localeCompare(fileName(b.clip.path)),
    );
}
