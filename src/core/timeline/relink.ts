import { equals, rational } from '../time/rational';
import {
  countingFor,
  frameOfSameLabel,
  isDropFrameText,
  parseTimecode,
  type TimecodeCounting,
} from '../time/timecode';
import { sourceFrameAt } from './flatten';
import type { Item, MediaRef, Timeline } from './model';

/** A file that a missing media may be, and the volume that it lies on. */
export type Candidate = MediaRef & { readonly clipId: string; readonly volumeId: string };

/** How a file was recognised, the surest first. */
export type RelinkReason = 'content' | 'name and timecode' | 'name' | 'timecode';

const order: readonly RelinkReason[] = ['content', 'name and timecode', 'name', 'timecode'];

/** A name without folder and ending, as interchange files may carry it. */
function stem(name: string): string {
  return (name.split(/[\\/]/).at(-1) ?? name).replace(/\.[^.]+$/, '').toLowerCase();
}

/** First frame of a medium counted from midnight, and how; null where it has no timecode that its rate can have. */
function startOf({
  startTimecode,
  rate,
}: Pick<MediaRef, 'startTimecode' | 'rate'>): { frame: number; counting: TimecodeCounting } | null {
  if (startTimecode === null) return null;
  try {
    const counting = countingFor(rate, isDropFrameText(startTimecode));
    return { frame: parseTimecode(startTimecode, counting), counting };
  } catch {
    return null;
  }
}

/**
 * The frame of a file that stands for a frame of a medium. Timecode decides where the medium has it: the frame with the same
 * label, whatever the rates. A file without timecode counts from 0, if the label lies in it. Else equal times are taken.
 */
function frameIn(ref: MediaRef, before: MediaRef, frame: number): number {
  const byTime = () => sourceFrameAt(0, frame, rational(1), ref.rate, before.rate);
  const [from, to] = [startOf(before), startOf(ref)];
  if (from === null) return byTime();
  const counting = to?.counting ?? countingFor(ref.rate);
  const isSameCount = equals(before.rate, ref.rate) && from.counting.dropFrame === counting.dropFrame;
  const labelled = isSameCount
    ? from.frame + frame
    : frameOfSameLabel(from.frame + frame, from.counting, counting);
  if (to === null) return labelled >= 0 && labelled < ref.frames ? labelled : byTime();
  return labelled - to.frame;
}

/** Whether the candidate's timecode holds all that the timeline has of the medium. */
function holds(candidate: Candidate, ref: MediaRef): boolean {
  if (startOf(ref) === null || startOf(candidate) === null) return false;
  return frameIn(candidate, ref, 0) >= 0 && frameIn(candidate, ref, ref.frames - 1) < candidate.frames;
}

/** Files that a medium may be, all of them for the same reason. */
interface Matches {
  readonly candidates: readonly Candidate[];
  readonly reason: RelinkReason;
}

/** The surest matches for a missing medium, in the order given; null where there is none. */
export function findMatches(ref: MediaRef, candidates: readonly Candidate[]): Matches | null {
  let best: RelinkReason | null = null;
  let matches: Candidate[] = [];
  for (const candidate of candidates) {
    const reason = reasonFor(ref, candidate);
    if (!reason) continue;
    const gain = best === null ? -1 : order.indexOf(reason) - order.indexOf(best);
    if (gain > 0) continue;
    if (gain < 0) matches = [];
    best = reason;
    matches.push(candidate);
  }
  return best && { candidates: matches, reason: best };
}

function reasonFor(ref: MediaRef, candidate: Candidate): RelinkReason | null {
  if (ref.contentHash !== null && ref.contentHash === candidate.contentHash) return 'content';
  if (stem(candidate.name) === stem(ref.name)) return holds(candidate, ref) ? 'name and timecode' : 'name';
  // By timecode alone another rate would be too little to go by.
  return ref.reel !== null && equals(candidate.rate, ref.rate) && holds(candidate, ref) ? 'timecode' : null;
}

/**
 * Puts a file in the place of a medium. Items go on showing the same source time: where both have
 * timecode, in points move by the difference of their starts.
 */
export function relink(timeline: Timeline, mediaId: string, ref: MediaRef): Timeline {
  const before = timeline.media[mediaId];
  if (!before) return timeline;
  const move = (first: number) => Math.min(ref.frames - 1, Math.max(0, frameIn(ref, before, first)));
  const moved = (item: Item): Item => {
    const { source } = item;
    if (source.kind === 'clip' && source.media === mediaId)
      return { ...item, source: { ...source, in: move(source.in) } };
    if (source.kind === 'angles' && source.angles.some(({ media }) => media === mediaId))
      return {
        ...item,
        source: {
          ...source,
          angles: source.angles.map((angle) =>
            angle.media === mediaId ? { ...angle, in: move(angle.in) } : angle,
          ),
        },
      };
    return item;
  };
  return {
    ...timeline,
    media: { ...timeline.media, [mediaId]: ref },
    tracks: timeline.tracks.map((track) => ({ ...track, items: track.items.map(moved) })),
  };
}

/**
 * Relinks every missing medium that has a match. Of equal files, that on the volume is taken which has or may have most of
 * the timeline's media, so that a timeline is not strewn over copies of its cards; of equal volumes the first given.
 * Returns what was found how, by media id.
 */
export function relinkAll(
  timeline: Timeline,
  candidates: readonly Candidate[],
): { timeline: Timeline; found: ReadonlyMap<string, RelinkReason>; missing: readonly string[] } {
  const found = new Map<string, RelinkReason>();
  const missing: string[] = [];
  const wanted = Object.entries(timeline.media).map(
    ([id, ref]) => [id, ref, ref.clipId === null ? findMatches(ref, candidates) : null] as const,
  );
  const volumeOf = new Map(candidates.map(({ clipId, volumeId }) => [clipId, volumeId]));
  const mediaOn = new Map<string | undefined, number>();
  for (const [, { clipId }, matches] of wanted) {
    const volumes =
      clipId === null ? matches?.candidates.map(({ volumeId }) => volumeId) : [volumeOf.get(clipId)];
    for (const volume of new Set(volumes)) mediaOn.set(volume, (mediaOn.get(volume) ?? 0) + 1);
  }
  let result = timeline;
  for (const [id, ref, matches] of wanted) {
    if (ref.clipId !== null) continue;
    if (!matches) {
      missing.push(id);
      continue;
    }
    const share = ({ volumeId }: Candidate) => mediaOn.get(volumeId) ?? 0;
    const { volumeId: _, ...taken } = matches.candidates.reduce((best, one) =>
      share(one) > share(best) ? one : best,
    );
    found.set(id, matches.reason);
    result = relink(result, id, { ...taken, reel: ref.reel ?? taken.reel });
  }
  return { timeline: result, found, missing };
}
