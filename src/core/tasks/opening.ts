import { leastChange, nearlyAll, type LeastChange } from './heldBack';
import { greatest, least } from '../stats/extremes';
import { median } from '../stats/quantiles';

/** A part of what is done when a timeline is opened. Times are ms from the beginning. */
export interface OpeningStep {
  readonly fromMs: number;
  readonly toMs: number;
  /** Of that, waited for bytes. */
  readonly readMs: number;
  readonly bytes: number;
  /** Of a header: until the file's first byte was there, ms from the step's beginning; absent in trials from before. */
  readonly firstByteMs?: number;
}

/** `picture`: a clip's first one, where no more of it was asked for; `pictures`: its thumbnails. */
export const openingParts = ['header', 'picture', 'pictures', 'sound'] as const;
export type OpeningPart = (typeof openingParts)[number];

/** A clip of a timeline that was opened. A part that was not come to, or that it has none of, is null. */
export interface OpenedClip {
  /** Id of the timeline's medium; absent in trials from before. */
  readonly media?: string;
  readonly name: string;
  /** It is seen in the first picture, which waited for its header. */
  readonly isFirst: boolean;
  readonly header: OpeningStep | null;
  /** Absent in trials from before. */
  readonly picture?: OpeningStep | null;
  readonly pictures: OpeningStep | null;
  readonly sound: OpeningStep | null;
  /** Why a part could not be made; null where all could. */
  readonly problem: string | null;
  /** Place among the clips that were worked on at a time, from 0; null before it was begun. */
  readonly lane: number | null;
}

/** What a clip took to be opened, ms from when its file was asked for: until its first byte, until its container's index was read, until its first picture was decoded. */
export interface ClipOpening {
  readonly firstByteMs: number;
  readonly indexMs: number;
  readonly pictureMs: number;
}
export const clipOpeningParts = [
  'firstByteMs',
  'indexMs',
  'pictureMs',
] as const satisfies readonly (keyof ClipOpening)[];

/** Of a clip that was opened to its first picture; null of another. */
export function clipOpening({ header, picture }: OpenedClip): ClipOpening | null {
  if (!header || header.firstByteMs === undefined || !picture) return null;
  return {
    firstByteMs: header.firstByteMs,
    indexMs: header.toMs - header.fromMs,
    pictureMs: picture.toMs - header.fromMs,
  };
}

/** Clips that were opened to their first picture: the middle and the worst of each figure. */
export interface ClipOpenings {
  readonly clips: number;
  readonly median: ClipOpening;
  readonly worst: ClipOpening;
}

/** What was measured of opening a timeline. */
export interface OpeningRecord {
  /** Clips at a time. */
  readonly lanes: number;
  /** The first picture, once the headers of its clips were there; null before. */
  readonly first: OpeningStep | null;
  readonly clips: readonly OpenedClip[];
}

/** What can be made faster: waiting for bytes, or what is worked out of them. */
export const openingHolds = ['read', 'first', ...openingParts] as const;
export type OpeningHold = (typeof openingHolds)[number];

export interface OpeningSummary {
  readonly clips: number;
  /** Clips of which all was made. */
  readonly whole: number;
  readonly problems: number;
  /** Until the first picture could be shown, and until the last clip's part was there; null where there is none. */
  readonly firstMs: number | null;
  readonly headersMs: number | null;
  readonly picturesMs: number | null;
  readonly soundMs: number | null;
  readonly elapsedMs: number;
  /** Clip by clip, where each was opened to its first picture; null where more was asked for, absent in trials from before. */
  readonly each?: ClipOpenings | null;
  /** Time of all clips together, and what of it was waiting. */
  readonly parts: Readonly<
    Record<
      Exclude<OpeningHold, 'read'>,
      { readonly steps: number; readonly ms: number; readonly readMs: number; readonly bytes: number }
    >
  >;
  /** Saved if it took nothing, or half; shares of the time. */
  readonly free: Readonly<Record<OpeningHold, number>>;
  readonly twice: Readonly<Record<OpeningHold, number>>;
  /** What saves most if it takes nothing; null where nothing saves anything to speak of. */
  readonly hold: OpeningHold | null;
  /** What would have saved nearly as much. */
  readonly alike: readonly OpeningHold[];
  readonly least: LeastChange | null;
  /** Time of the unchanged replay over the time measured. */
  readonly agreement: number;
}

/** One thing that takes a part of its time. */
interface Change {
  readonly hold: OpeningHold;
  readonly factor: number;
}

/** Time of a step under a change, ms. */
function timeOf(step: OpeningStep | null | undefined, part: OpeningHold, change: Change | null): number {
  if (!step) return 0;
  const workMs = Math.max(0, step.toMs - step.fromMs - step.readMs);
  const factorOf = (hold: OpeningHold) => (change?.hold === hold ? change.factor : 1);
  return step.readMs / factorOf('read') + workMs / factorOf(part);
}

/**
 * How long the same opening would have taken with one thing changed: headers of what the first picture shows, the picture, then
 * clip after clip in their order, each on the lane that is free first. What lanes take from each other, cores and the volume's
 * rate, stays in their times. @returns ms
 */
export function replayedOpening(
  { first, clips, lanes }: OpeningRecord,
  change: Change | null = null,
): number {
  const begun =
    clips
      .filter(({ isFirst }) => isFirst)
      .reduce((sum, { header }) => sum + timeOf(header, 'header', change), 0) +
    timeOf(first, 'first', change);
  const freeAt = new Array<number>(Math.max(1, lanes)).fill(begun);
  for (const clip of clips) {
    const takes = openingParts.reduce(
      (sum, part) => sum + (part === 'header' && clip.isFirst ? 0 : timeOf(clip[part], part, change)),
      0,
    );
    // Its header is open on the first lane.
    const lane = clip.isFirst ? 0 : freeAt.indexOf(least(freeAt));
    freeAt[lane] = (freeAt[lane] ?? 0) + takes;
  }
  return greatest(freeAt);
}

/** Less than this is nothing to speak of. */
const leastSaved = 0.03;

/** What an opening came to, or came to before it ended. @returns null where nothing was done */
export function summariseOpening(record: OpeningRecord): OpeningSummary | null {
  const { first, clips } = record;
  const stepsOf = (part: Exclude<OpeningHold, 'read'>): OpeningStep[] =>
    part === 'first' ? (first ? [first] : []) : clips.flatMap((clip) => clip[part] ?? []);
  const lastOf = (part: Exclude<OpeningHold, 'read'>) =>
    stepsOf(part).reduce<number | null>((last, { toMs }) => Math.max(last ?? 0, toMs), null);
  const parts = mapped(['first', ...openingParts] as const, (part) => {
    const steps = stepsOf(part);
    const total = (of: (step: OpeningStep) => number) => steps.reduce((sum, step) => sum + of(step), 0);
    return {
      steps: steps.length,
      ms: total(({ fromMs, toMs }) => toMs - fromMs),
      readMs: total(({ readMs }) => readMs),
      bytes: total(({ bytes }) => bytes),
    };
  });
  const ends = {
    firstMs: lastOf('first'),
    headersMs: lastOf('header'),
    picturesMs: lastOf('pictures') ?? lastOf('picture'),
    soundMs: lastOf('sound'),
  };
  const elapsedMs = greatest(
    Object.values(ends).map((ms) => ms ?? 0),
    0,
  );
  if (elapsedMs === 0) return null;
  const asItWas = replayedOpening(record);
  const saved = (hold: OpeningHold, factor: number) =>
    asItWas > 0 ? Math.max(0, 1 - replayedOpening(record, { hold, factor }) / asItWas) : 0;
  const free = mapped(openingHolds, (hold) => saved(hold, Infinity));
  const most = openingHolds.reduce((best, hold) => (free[hold] > free[best] ? hold : best));
  const hold = free[most] < leastSaved ? null : most;
  return {
    clips: clips.length,
    whole: clips.filter(isWhole).length,
    problems: clips.filter(({ problem }) => problem !== null).length,
    ...ends,
    elapsedMs,
    each: openingsOf(clips),
    parts,
    free,
    twice: mapped(openingHolds, (one) => saved(one, 2)),
    hold,
    alike:
      hold === null ? [] : openingHolds.filter((one) => one !== hold && free[one] >= free[hold] * nearlyAll),
    least: hold && leastChange((factor) => saved(hold, factor), free[hold]),
    agreement: asItWas / elapsedMs,
  };
}

/** All that was asked for of it is there. */
const isWhole = ({ problem, picture, pictures }: OpenedClip) =>
  problem === null && (pictures ?? picture) != null;

/** @returns null where no clip was opened to its first picture alone */
function openingsOf(clips: readonly OpenedClip[]): ClipOpenings | null {
  const opened = clips.flatMap((clip) => clipOpening(clip) ?? []);
  if (opened.length === 0) return null;
  const over = (of: (values: readonly number[]) => number) =>
    mapped(clipOpeningParts, (part) => of(opened.map((one) => one[part])));
  return { clips: opened.length, median: over(median), worst: over((values) => greatest(values)) };
}

function mapped<Key extends string, Value>(
  keys: readonly Key[],
  valueOf: (key: Key) => Value,
): Record<Key, Value> {
  return Object.fromEntries(keys.map((key) => [key, valueOf(key)])) as Record<Key, Value>;
}

/** Holds as sentences and tables name them. */
export const openingNouns: Readonly<
  Record<OpeningHold, { readonly name: string; readonly doing: string; readonly by: string }>
> = {
  read: { name: 'Waiting for bytes', doing: 'Waiting for bytes', by: 'a source twice as fast' },
  first: { name: 'First picture', doing: 'The first picture', by: 'half its decoding and effects' },
  picture: { name: 'First pictures of clips', doing: 'Decoding first pictures', by: 'half the work on them' },
  header: { name: 'Headers', doing: 'Reading headers', by: 'half the work on them' },
  pictures: { name: 'Thumbnails', doing: 'Drawing thumbnails', by: 'half the work on them' },
  sound: { name: 'Sound peaks', doing: 'Drawing sound peaks', by: 'half the work on them' },
};
