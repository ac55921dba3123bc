import {
  array,
  boolean,
  identity,
  byWord,
  number,
  object,
  readBy,
  record,
  string,
  triple,
  word,
  type Schema,
  ValidationError,
} from '../edge/strict';
import {
  mostNameCharacters,
  mostOtherCharacters,
  mostSlots,
  structureProblem,
  type MediaRef,
  type Timeline,
} from './model';

/** A timeline's document as it may come in, from whatever side: pages, interchange files, bundles. */

const text = (most: number) => string().max(most).defined();
const count = (least: number, most: number) => number().integer().min(least).max(most).required();
const figure = (least: number, most: number) => number().min(least).max(most).required();
/** Ids within a document are told from each other, not looked for anywhere. */
const entryId = text(200).min(1);
/** What other programs keep, as text. */
const other = string().max(mostOtherCharacters).optional();
/** A place in a source, frames; before its first frame where an edit begins before the media. */
const sourceFrame = count(-(2 ** 40), 2 ** 40);

const rate = object({ num: count(1, 1e9), den: count(1, 1e9) });
const speed = object({ num: count(-1e9, 1e9), den: count(1, 1e9) });
/** At most the rates and rasters that anything is made of. */
const mostRate = 1_000;
const mostPixels = 65_536;

const rect = object({
  x: figure(-100, 100),
  y: figure(-100, 100),
  width: figure(1e-6, 100),
  height: figure(1e-6, 100),
});

export const timelineName = string()
  .trim()
  .min(1, 'Give the timeline a name.')
  .max(mostNameCharacters, `A name has at most ${mostNameCharacters} characters.`)
  .required('Give the timeline a name.');

const mediaRef = object({
  clipId: identity().nullable().defined(),
  name: text(2_000),
  reel: string().max(500).nullable().defined(),
  startTimecode: string().max(40).nullable().defined(),
  contentHash: string().max(200).nullable().defined(),
  rate,
  frames: count(1, 2 ** 40),
  width: count(1, mostPixels),
  height: count(1, mostPixels),
  other,
});

/** The name that a medium has in its timeline: an id, or what an interchange file calls it. */
const mediaName = text(2_000).min(1);

const source = byWord('kind', {
  clip: object({ kind: word('clip'), media: mediaName, in: sourceFrame, speed }),
  still: object({ kind: word('still'), media: mediaName, from: rect, to: rect }),
  angles: object({
    kind: word('angles'),
    angles: array(object({ media: mediaName, in: sourceFrame }))
      .min(1)
      .max(64)
      .required(),
    switches: array(object({ at: count(0, mostSlots), angle: count(0, 63) }))
      .min(1)
      .required(),
  }),
  title: object({ kind: word('title') }),
});

const common = { id: entryId, on: boolean().required() };
const effect = byWord('kind', {
  'white-balance': object({ ...common, kind: word('white-balance'), gains: triple(-100, 100) }),
  'lift-gamma-gain': object({
    ...common,
    kind: word('lift-gamma-gain'),
    lift: triple(-100, 100),
    gamma: triple(0.001, 100),
    gain: triple(-100, 100),
  }),
  saturation: object({ ...common, kind: word('saturation'), amount: figure(0, 100) }),
  lut: object({ ...common, kind: word('lut'), lookId: identity().nullable().defined(), name: text(500) }),
  transform: object({ ...common, kind: word('transform'), crop: rect, place: rect, opacity: figure(0, 1) }),
  title: object({
    ...common,
    kind: word('title'),
    text: text(2_000),
    size: figure(0.0001, 10),
    x: figure(-100, 100),
    y: figure(-100, 100),
  }),
  blur: object({ ...common, kind: word('blur'), radius: figure(0, 1) }),
});

const item = object({
  id: entryId,
  name: text(2_000),
  start: count(0, mostSlots),
  length: count(1, mostSlots),
  source,
  effects: array(effect).max(200).required(),
  other,
});

export const timelineSchema = object({
  name: timelineName,
  rate: rate.test(
    'most',
    `At most ${mostRate} frames per second.`,
    ({ num, den }) =>
      // What is no ratio of whole numbers at all, its fields say.
      !Number.isInteger(num) ||
      !Number.isInteger(den) ||
      num < 1 ||
      den < 1 ||
      (num / den <= mostRate && den / num <= mostRate),
  ),
  width: count(1, mostPixels),
  height: count(1, mostPixels),
  startTimecode: text(40),
  tracks: array(
    object({
      id: entryId,
      name: text(200),
      on: boolean().required(),
      items: array(item).max(100_000).required(),
      other,
    }),
  )
    .max(200, 'At most 200 tracks.')
    .required('The timeline has no tracks.'),
  markers: array(
    object({ id: entryId, at: number().integer().required(), name: text(2_000), other }),
  ).required(),
  other,
  media: record(mediaRef, {
    most: 20_000,
    isName: (name) => name.length > 0 && name.length <= 2_000,
  }).required(),
});

/** A document that is no timeline, with the place and what is wrong there. */
export class TimelineError extends Error {
  override name = 'TimelineError';
  constructor(
    message: string,
    readonly field: string | null,
  ) {
    super(message);
  }
}

/**
 * The timeline that a document holds, without what does not belong there.
 * @throws TimelineError for what is none, or hangs together badly
 */
export function timelineFrom(document: unknown): Timeline {
  return soundTimeline(checked(timelineSchema, document));
}

/** A medium of a timeline. @throws TimelineError for what is none */
export function mediaFrom(value: unknown): MediaRef {
  return checked(mediaRef, value);
}

function checked<Value>(schema: Schema<Value>, value: unknown): Value {
  try {
    return readBy(schema, value);
  } catch (error) {
    if (error instanceof ValidationError) throw new TimelineError(error.message, error.path ?? null);
    throw error;
  }
}

/** A timeline whose form was checked, if it hangs together as well. @throws TimelineError where it does not */
export function soundTimeline(timeline: Timeline): Timeline {
  const problem = structureProblem(timeline);
  if (problem) throw new TimelineError(problem.message, problem.field);
  return timeline;
}
