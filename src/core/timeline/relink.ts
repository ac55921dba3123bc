import { equals, rational } from '../time/rational';
import { countingFor, isDropFrameText, parseTimecode } from '../time/timecode';
import { sourceFrameAt } from './flatten';
import type { Item, MediaRef, Timeline } from './model';

/** A file that a missing media may be. */
export type Candidate = MediaRef & { readonly clipId: string };

/** How a file was recognised, the surest first. */
export type RelinkReason = 'content' | 'name and timecode' | 'name' | 'timecode';

const order: readonly RelinkReason[] = ['content', 'name and timecode', 'name', 'timecode'];

/** A name without folder and ending, as interchange files may carry it. */
function stem(name: string): string {
  return (name.split(/[\\/]/).at(-1) ?? name).replace(/\.[^.]+$/, '').toLowerCase();
}

/** First frame of a medium counted from midnight; null where it has no timecode that its rate can have. */
export function startFrame({ startTimecode, rate }: Pick<MediaRef, 'startTimecode' | 'rate'>): number | null {
  if (startTimecode === null) return null;
  try {
    return parseTimecode(startTimecode, countingFor(rate, isDropFrameText(startTimecode)));
  } catch {
    return null;
  }
}

/** Whether the candidate's timecode holds all that the timeline has of the medium. */
function holds(candidate: Candidate, ref: MediaRef): boolean {
  if (!equals(candidate.rate, ref.rate)) return false;
  const wanted = startFrame(ref);
  const start = startFrame(candidate);
  return (
    wanted !== null && start !== null && wanted >= start && wanted + ref.frames <= start + candidate.frames
  );
}

/** The surest match for a missing medium, or null. Of equals the first. */
export function findMatch(
  ref: MediaRef,
  candidates: readonly Candidate[],
): { candidate: Candidate; reason: RelinkReason } | null {
  let best: { candidate: Candidate; reason: RelinkReason } | null = null;
  for (const candidate of candidates) {
    const sameName = stem(candidate.name) === stem(ref.name);
    const reason: RelinkReason | null =
      ref.contentHash !== null && ref.contentHash === candidate.contentHash
        ? 'content'
        : sameName && holds(candidate, ref)
          ? 'name and timecode'
          : sameName
            ? 'name'
            : ref.reel !== null && ref.startTimecode !== null && holds(candidate, ref)
              ? 'timecode'
              : null;
    if (reason && (!best || order.indexOf(reason) < order.indexOf(best.reason))) best = { candidate, reason };
  }
  return best;
}

/**
 * Puts a file in the place of a medium. Items go on showing the same source time: where both have
 * timecode, in points move by the difference of their starts.
 */
export function relink(timeline: Timeline, mediaId: string, ref: MediaRef): Timeline {
  const before = timeline.media[mediaId];
  if (!before) return timeline;
  const oldStart = startFrame(before);
  const newStart = startFrame(ref);
  const shift =
    oldStart !== null && newStart !== null && equals(before.rate, ref.rate) ? oldStart - newStart : 0;
  const move = (first: number) =>
    Math.min(
      ref.frames - 1,
      Math.max(0, sourceFrameAt(0, first, rational(1), ref.rate, before.rate) + shift),
    );
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

/** Relinks every missing medium that has a match. Returns what was found how, by media id. */
export function relinkAll(
  timeline: Timeline,
  candidates: readonly Candidate[],
): { timeline: Timeline; found: ReadonlyMap<string, RelinkReason>; missing: readonly string[] } {
  const found = new Map<string, RelinkReason>();
  const missing: string[] = [];
  let result = timeline;
  for (const [id, ref] of Object.entries(timeline.media)) {
    if (ref.clipId !== null) continue;
    const match = findMatch(ref, candidates);
    if (!match) {
      missing.push(id);
      continue;
    }
    found.set(id, match.reason);
    result = relink(result, id, { ...match.candidate, reel: ref.reel ?? match.candidate.reel });
  }
  return { timeline: result, found, missing };
}
