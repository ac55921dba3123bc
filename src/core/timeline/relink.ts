import { equals, rational } from '../time/rational';
import {
  countingFor,
  frameOfSameLabel,
  isDropFrameText,
  parseTimecode,
  type TimecodeCounting,
} from '../time/timecode';
import { groupBy } from '../groups';
import { greatest } from '../stats/extremes';
import { partitionPoint } from '../stats/partitionPoint';
import { sourceFrameAt } from './flatten';
import type { Item, MediaRef, Timeline } from './model';

/** A file that a missing media may be, and the volume that it lies on. */
export type Candidate = MediaRef & { readonly clipId: string; readonly volumeId: string };

/** How a file was recognised, the surest first. */
export type RelinkReason = 'content' | 'name and timecode' | 'name' | 'timecode';

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
export interface Matches {
  readonly candidates: readonly Candidate[];
  readonly reason: RelinkReason;
}

/** Candidates by what they are looked for by, so that thousands of media are found among thousands of files. */
export class Candidates {
  private readonly ofContent: ReadonlyMap<string, readonly Candidate[]>;
  private readonly ofName: ReadonlyMap<string, readonly Candidate[]>;
  /** By their rate, in order of their start. */
  private readonly inTime: ReadonlyMap<
    string,
    readonly { readonly candidate: Candidate; readonly from: number }[]
  >;
  private readonly longest: number;

  constructor(readonly all: readonly Candidate[]) {
    this.ofContent = groupBy(
      all.filter(({ contentHash }) => contentHash !== null),
      ({ contentHash }) => contentHash as string,
    );
    this.ofName = groupBy(all, ({ name }) => stem(name));
    const timed = all.flatMap((candidate) => {
      const start = startOf(candidate);
      return start ? [{ candidate, from: start.frame }] : [];
    });
    const byRate = groupBy(timed, ({ candidate: { rate } }) => rateKey(rate));
    this.inTime = new Map(
      [...byRate].map(([rate, some]) => [rate, some.toSorted((a, b) => a.from - b.from)]),
    );
    this.longest = greatest(
      all.map(({ frames }) => frames),
      0,
    );
  }

  /** The surest matches for a missing medium, in the order given; null where there is none. */
  matchesOf(ref: MediaRef): Matches | null {
    const byContent = ref.contentHash === null ? [] : (this.ofContent.get(ref.contentHash) ?? []);
    if (byContent.length > 0) return { candidates: byContent, reason: 'content' };
    const byName = this.ofName.get(stem(ref.name)) ?? [];
    const holding = byName.filter((candidate) => holds(candidate, ref));
    if (holding.length > 0) return { candidates: holding, reason: 'name and timecode' };
    if (byName.length > 0) return { candidates: byName, reason: 'name' };
    const start = startOf(ref);
    // By timecode alone another rate would be too little to go by.
    if (ref.reel === null || start === null) return null;
    const timed = this.inTime.get(rateKey(ref.rate)) ?? [];
    const first = partitionPoint(timed.length, (at) => (timed[at]?.from ?? 0) < start.frame - this.longest);
    const found: Candidate[] = [];
    for (let at = first; at < timed.length; at++) {
      const { candidate, from } = timed[at] as (typeof timed)[number];
      if (from > start.frame) break;
      if (holds(candidate, ref)) found.push(candidate);
    }
    return found.length > 0 ? { candidates: found, reason: 'timecode' } : null;
  }
}

const rateKey = ({ num, den }: MediaRef['rate']) => `${num}/${den}`;

/** Puts a file in the place of a medium. Items go on showing the same source time, by timecode where both have it. */
export const relink = (timeline: Timeline, mediaId: string, ref: MediaRef): Timeline =>
  relinkThese(timeline, new Map([[mediaId, ref]]));

/** Puts files in the places of media, by the media's ids. */
function relinkThese(timeline: Timeline, files: ReadonlyMap<string, MediaRef>): Timeline {
  const known = new Map([...files].filter(([id]) => Object.hasOwn(timeline.media, id)));
  if (known.size === 0) return timeline;
  const moved = (media: string, first: number): number => {
    const [before, ref] = [timeline.media[media], known.get(media)];
    return before && ref ? Math.min(ref.frames - 1, Math.max(0, frameIn(ref, before, first))) : first;
  };
  const withFile = (item: Item): Item => {
    const { source } = item;
    if (source.kind === 'clip' && known.has(source.media))
      return { ...item, source: { ...source, in: moved(source.media, source.in) } };
    if (source.kind === 'angles' && source.angles.some(({ media }) => known.has(media)))
      return {
        ...item,
        source: {
          ...source,
          angles: source.angles.map((angle) => ({ ...angle, in: moved(angle.media, angle.in) })),
        },
      };
    return item;
  };
  return {
    ...timeline,
    media: { ...timeline.media, ...Object.fromEntries(known) },
    tracks: timeline.tracks.map((track) => ({ ...track, items: track.items.map(withFile) })),
  };
}

/** What relinking found, by the ids of media. */
export interface Relinked {
  readonly timeline: Timeline;
  readonly found: ReadonlyMap<string, { readonly reason: RelinkReason; readonly file: Candidate }>;
  /** Media that several different files may be: somebody has to choose. */
  readonly choices: ReadonlyMap<string, Matches>;
  readonly missing: readonly string[];
}

/**
 * Relinks every missing medium that one content matches. Of equal files, that on the volume is taken which has or may have
 * most of the timeline's media, so that a timeline is not strewn over copies of its cards; of equal volumes the first given.
 * Where files of different content match equally well, none is taken but the one that somebody chose.
 * @param chosen ids of clips by the ids of media that several match
 */
export function relinkAll(
  timeline: Timeline,
  candidates: readonly Candidate[],
  chosen: ReadonlyMap<string, string> = new Map(),
): Relinked {
  const index = new Candidates(candidates);
  const wanted = Object.entries(timeline.media).map(
    ([id, ref]) => [id, ref, ref.clipId === null ? index.matchesOf(ref) : null] as const,
  );
  const volumeOf = new Map(candidates.map(({ clipId, volumeId }) => [clipId, volumeId]));
  const mediaOn = new Map<string | undefined, number>();
  for (const [, { clipId }, matches] of wanted) {
    const volumes =
      clipId === null ? matches?.candidates.map(({ volumeId }) => volumeId) : [volumeOf.get(clipId)];
    for (const volume of new Set(volumes)) mediaOn.set(volume, (mediaOn.get(volume) ?? 0) + 1);
  }
  const share = ({ volumeId }: Candidate) => mediaOn.get(volumeId) ?? 0;
  const found = new Map<string, { reason: RelinkReason; file: Candidate }>();
  const choices = new Map<string, Matches>();
  const missing: string[] = [];
  for (const [id, ref, matches] of wanted) {
    if (ref.clipId !== null) continue;
    const picked = matches?.candidates.find(({ clipId }) => clipId === chosen.get(id));
    if (!matches) missing.push(id);
    else if (picked) found.set(id, { reason: matches.reason, file: picked });
    else if (!isOneContent(matches.candidates)) choices.set(id, matches);
    else
      found.set(id, {
        reason: matches.reason,
        file: matches.candidates.reduce((best, one) => (share(one) > share(best) ? one : best)),
      });
  }
  const files = new Map([...found].map(([id, { file }]) => [id, linkedRef(timeline.media[id], file)]));
  return { timeline: relinkThese(timeline, files), found, choices, missing };
}

/** A file as a timeline keeps it in a medium's place: with the medium's reel, and what others keep with it. */
export function linkedRef(before: MediaRef | undefined, { volumeId: _, ...file }: Candidate): MediaRef {
  return {
    ...file,
    reel: before?.reel ?? file.reel,
    ...(before?.other === undefined ? {} : { other: before.other }),
  };
}

/** Whether files are copies of each other. */
function isOneContent(files: readonly Candidate[]): boolean {
  const [first] = files;
  return (
    files.length < 2 ||
    files.every(({ contentHash }) => contentHash !== null && contentHash === first?.contentHash)
  );
}
