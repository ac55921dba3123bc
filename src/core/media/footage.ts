import { fileName } from './fileName';
import { groupBy } from '../groups';
import { equals, type Rational } from '../time/rational';
import { fingerprintDistance } from './fingerprint';

/** What is known of a clip when it is asked whether it shows the same footage as another. */
export interface FootageClip {
  readonly id: string;
  readonly path: string;
  readonly contentHash: string | null;
  readonly startTimecode: string | null;
  readonly frames: number | null;
  readonly rate: Rational | null;
  readonly pixels: number;
  readonly bitDepth: number;
  readonly meanBitsPerSecond: number;
  readonly fingerprint: Uint8Array | null;
  /** Group it belongs to by hand; never changed by the automatic grouping. */
  readonly fixedFootage: string | null;
  /** Taken out of every group by hand. */
  readonly alone: boolean;
}

/** Fingerprints nearer than this show the same pictures; further than `foreign` they cannot. */
const fingerprintLimits = { same: 0.15, foreign: 0.3 } as const;

/** Words in file names that tell a rendition, not footage. */
const renditionWords =
  /[ _\-.]+(proxy|proxies|px|lowres|low|hires|offline|online|edit|intermediate|mezzanine|transcode|copy|uhd|hd|2k|4k|full|half|quarter|\d+x\d+|\d{3,4}p|prores[a-z0-9]*|dnx[a-z0-9]*|h264|h265|hevc|mjpeg|cineform|\d+)$/i;

/** A file's name without its folder, ending and the words that tell a rendition: what footage is called. */
export function footageName(path: string): string {
  let name = fileName(path).replace(/\.[^.]+$/, '');
  for (let shorter = name; ; name = shorter) {
    shorter = name.replace(renditionWords, '');
    // A number alone is part of the name: only words behind it go.
    if (shorter === name || /[ _\-.]\d+$/.test(name)) return name;
  }
}

const names = new WeakMap<FootageClip, string>();
/** What a clip's footage is called, in small letters; worked out once, for each is compared with many. */
function nameOf(clip: FootageClip): string {
  const known = names.get(clip);
  if (known !== undefined) return known;
  const name = footageName(clip.path).toLowerCase();
  names.set(clip, name);
  return name;
}

/** Why two clips are taken for the same footage, in words; null when they are not. */
export function sameFootage(a: FootageClip, b: FootageClip): string[] | null {
  if (a.contentHash !== null && a.contentHash === b.contentHash) return ['same content'];
  if (a.frames === null || b.frames === null || !a.rate || !b.rate) return null;
  if (Math.abs(a.frames - b.frames) > 1 || !equals(a.rate, b.rate)) return null;
  const distance = a.fingerprint && b.fingerprint ? fingerprintDistance(a.fingerprint, b.fingerprint) : null;
  if (distance !== null && distance > fingerprintLimits.foreign) return null;
  const reasons = ['duration'];
  if (nameOf(a) === nameOf(b)) reasons.push('name');
  if (a.startTimecode !== null && a.startTimecode === b.startTimecode) reasons.push('timecode');
  if (distance !== null && distance <= fingerprintLimits.same) reasons.push('pictures');
  // Two witnesses beside the duration; like pictures count as one even without a name or timecode of their own.
  return reasons.length >= 3 ? reasons : null;
}

/** A group of clips that show the same footage. */
export interface FootageGroup {
  /** Clip ids, the original first. */
  readonly clips: readonly string[];
  readonly name: string;
  /** Group set by hand that this one is, if any. */
  readonly fixed: string | null;
}

/**
 * Groups clips by footage. Groups set by hand stay as they are and take in what
 * matches a member of them; clips taken out by hand stay alone.
 */
export function groupFootage(clips: readonly FootageClip[]): FootageGroup[] {
  const parent = clips.map((_, index) => index);
  const root = (index: number): number => {
    let at = index;
    while (parent[at] !== at) at = parent[at] = parent[parent[at] ?? at] ?? at;
    return at;
  };
  const fixedOf = clips.map(({ fixedFootage }) => fixedFootage);
  const join = (a: number, b: number) => {
    const [x, y] = [root(a), root(b)];
    const [fixedX, fixedY] = [fixedOf[x] ?? null, fixedOf[y] ?? null];
    if (x === y || (fixedX !== null && fixedY !== null && fixedX !== fixedY)) return;
    parent[y] = x;
    fixedOf[x] = fixedX ?? fixedY;
  };
  const firstOfHand = new Map<string, number>();
  fixedOf.forEach((fixed, index) => {
    if (fixed === null) return;
    const first = firstOfHand.get(fixed);
    if (first === undefined) firstOfHand.set(fixed, index);
    else join(first, index);
  });
  for (const bucket of candidates(clips)) {
    for (let i = 0; i < bucket.length; i++) {
      for (let j = i + 1; j < bucket.length; j++) {
        const [a, b] = [clips[bucket[i] ?? 0], clips[bucket[j] ?? 0]];
        if (
          a &&
          b &&
          !a.alone &&
          !b.alone &&
          root(bucket[i] ?? 0) !== root(bucket[j] ?? 0) &&
          sameFootage(a, b)
        )
          join(bucket[i] ?? 0, bucket[j] ?? 0);
      }
    }
  }
  return [...groupBy(clips.keys(), root)].map(([top, indexes]) => {
    const ordered = indexes
      .map((index) => clips[index])
      .filter((clip): clip is FootageClip => clip !== undefined)
      .sort(byRank);
    return {
      clips: ordered.map(({ id }) => id),
      name: footageName(ordered[0]?.path ?? ''),
      fixed: fixedOf[top] ?? null,
    };
  });
}

/**
 * Clips that may belong together: of equal content, or of about the same length and besides that of one name, or of one
 * timecode and with pictures to compare. Of three witnesses two are needed, so one of those two is among them: it keeps
 * the comparisons few.
 */
function candidates(clips: readonly FootageClip[]): number[][] {
  const buckets = new Map<string, number[]>();
  const put = (key: string, index: number) => {
    const bucket = buckets.get(key);
    if (bucket) bucket.push(index);
    else buckets.set(key, [index]);
  };
  clips.forEach((clip, index) => {
    const { contentHash, frames, rate, startTimecode, fingerprint } = clip;
    if (contentHash !== null) put(`content ${contentHash}`, index);
    if (frames === null || !rate) return;
    // A clip may be a frame shorter than its rendition: it is compared with its own length and the next.
    for (const length of [frames, frames + 1]) {
      const key = `${length} ${rate.num}/${rate.den}`;
      put(`name ${key} ${nameOf(clip)}`, index);
      if (startTimecode !== null && fingerprint) put(`timecode ${key} ${startTimecode}`, index);
    }
  });
  return [...buckets.values()].filter((bucket) => bucket.length > 1);
}

/** Orders the forms of one footage: the original has the most pixels, then the most bits, then the highest rate. */
export function originalFirst(a: FootageRank, b: FootageRank): number {
  return b.pixels - a.pixels || b.bitDepth - a.bitDepth || b.meanBitsPerSecond - a.meanBitsPerSecond;
}

export type FootageRank = Pick<FootageClip, 'pixels' | 'bitDepth' | 'meanBitsPerSecond'>;

function byRank(a: FootageClip, b: FootageClip): number {
  return originalFirst(a, b) || a.path.localeCompare(b.path) || a.id.localeCompare(b.id);
}

export type RenditionRole = 'original' | 'copy' | 'rendition';

/** What a clip is within its footage. @param ordered clips of one group, the original first */
export function roleOf(
  clip: Pick<FootageClip, 'id' | 'contentHash'>,
  ordered: readonly Pick<FootageClip, 'id' | 'contentHash'>[],
): RenditionRole {
  const [original] = ordered;
  if (!original || original.id === clip.id) return 'original';
  const twin = ordered.find((other) => other.contentHash !== null && other.contentHash === clip.contentHash);
  return twin && twin.id !== clip.id ? 'copy' : 'rendition';
}
