import { array, boolean, identity, number, object, string } from '../../edge/strict';
import { cacheWays } from '../../media/coldProof';
import { mostUnderWay } from '../../storage/underWay';
import { frameWays, mostShare, mostSharing } from '../../decode/decoding';
import { fieldsWays, meanwhiles, soundChoices, workingDepths } from '../../playback/settings';
import { playbackScales } from '../../playback/slots';
import { mostSlots } from '../../timeline/model';

/** Fields that several kinds are asked for by. Messages say what to do. */

export const clipIds = array(identity().required())
  .min(1, 'Choose at least one clip.')
  .max(10_000, 'At most 10 000 clips at once.')
  .required('Choose at least one clip.');

export const passSeconds = number()
  .typeError('The length of a pass must be a number.')
  .min(0.2, 'A pass takes at least 0.2 s.')
  .max(60, 'A pass takes at most 60 s.')
  .default(2);

export const scale = string().oneOf(playbackScales, 'Choose full, half or quarter.');

export const exactRate = object({
  num: number().integer('A rate is a ratio of whole numbers.').min(1).max(1_000_000).required(),
  den: number().integer('A rate is a ratio of whole numbers.').min(1).max(1_000_000).required(),
});

/** @param what at the beginning of a sentence */
export const whole = (what: string) =>
  number().typeError(`${what} must be a number.`).integer(`${what} must be a whole number.`);

const slot = (what: string) =>
  number()
    .typeError(`${what} must be a slot.`)
    .integer(`${what} must be a whole slot.`)
    .min(0, `${what} cannot be before the first slot.`)
    .max(mostSlots, `${what} lies beyond the longest timeline.`);

/** Requests that one reader has under way; null: as many as its volume was found to need, where it is a network's, else one. */
export const underWay = whole('Requests under way')
  .min(1, 'At least one request under way.')
  .max(mostUnderWay, `At most ${mostUnderWay} requests under way.`)
  .nullable()
  .default(null);

export const cacheWay = string().oneOf(cacheWays, 'Choose past the cache or through it.');

/** In how many bits a channel pictures are worked on. */
export const depth = string()
  .oneOf(workingDepths, 'Choose to keep the depth of the source, or 8 bits.')
  .default('kept');

export const runSettings = {
  read: string()
    .oneOf(['originals', 'proxies'] as const, 'Choose originals or proxies.')
    .default('originals'),
  volumeId: identity().nullable().default(null),
  threads: whole('Threads').min(0, 'Threads cannot be negative.').max(256, 'At most 256 threads.').default(0),
  warm: boolean().default(false),
};

/** How a player's reader reads: through the system's cache or past it, and how many requests at once. */
export const readAsPlayed = { cache: cacheWay.default('past'), underWay };

/** What decodes a run, and in which shares of its streams. Empty: software alone. */
export const decodeOn = array(
  object({
    deviceId: string().max(200).required('Choose a device.'),
    share: number()
      .typeError('A share must be a number.')
      .integer('Shares must be a whole number.')
      .min(1, 'A share is at least 1.')
      .max(mostShare, `A share is at most ${mostShare}.`)
      .default(1),
    frames: string().oneOf(frameWays, 'A device’s pictures come to memory whole, or scaled by it.'),
  }),
)
  .max(mostSharing, `At most ${mostSharing} devices at once.`)
  .default([]);

/** What is done beside a playback. */
export const meanwhile = string().oneOf(meanwhiles, 'Choose nothing or previews.').default('nothing');

/** Whether sound goes along with a playback. */
export const sound = string().oneOf(soundChoices, 'Choose sound on or off.').default('on');

/** Show parts that were rendered before from there, where they still hold what the timeline has. */
export const prerendered = boolean().default(false);

/** What becomes of interlaced pictures. */
const fields = string().oneOf(fieldsWays, 'Choose woven or deinterlaced.').default('woven');

/** How a timeline is shown or worked on. */
export const shownSettings = { ...runSettings, depth, fields };

/** Slots that are worked on; `to` is the one after the last, null the end. */
export const stretch = {
  from: slot('The start').default(0),
  to: slot('The end').nullable().default(null),
};

export const target = {
  timelineId: identity().nullable().default(null),
  clipId: identity().nullable().default(null),
};

/** What every task is asked for by: what it works on, how that is read, and where it writes. */
export const taskInput = {
  ...target,
  ...shownSettings,
  ...stretch,
  targetVolumeId: identity().required('Choose a volume to write to.'),
};
