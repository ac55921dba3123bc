import { identity, number, object, string } from '../edge/strict';
import { fieldsWays } from '../playback/settings';
import type { KindFacts } from './kind';
import {
  decodeOn,
  depth,
  meanwhile,
  prerendered,
  readAsPlayed,
  runSettings,
  scale,
  shownSettings,
  sound,
  stretch,
  whole,
} from './shared/asked';
import { playedFacts, type PlayedShape } from './shared/played';

export const playbackInput = object({
  clipId: identity().required('Choose a clip.'),
  scale: string()
    .oneOf(['full', 'half', 'quarter'] as const, 'Choose full, half or quarter.')
    .required('Choose a playback scale.'),
  policy: string()
    .oneOf(['hold-time', 'every-frame'] as const, 'Choose hold time or every frame.')
    .default('hold-time'),
  threads: runSettings.threads,
  warm: runSettings.warm,
  depth,
  /** `each`: every field a slot of its own. */
  fields: string()
    .oneOf([...fieldsWays, 'each'] as const, 'Choose woven, deinterlaced or each a slot.')
    .default('woven'),
  meanwhile,
  sound,
  decodeOn,
  ...readAsPlayed,
}).noUnknown();

export const timelinePlaybackInput = object({
  scale: scale.required('Choose a playback scale.'),
  policy: string()
    .oneOf(['hold-time', 'every-frame'] as const, 'Choose hold time or every frame.')
    .default('hold-time'),
  ...stretch,
  speed: number()
    .oneOf([1, 2, 4, 8, -1, -2, -4, -8], 'Choose 1, 2, 4 or 8 times, forwards or backwards.')
    .default(1),
  loops: whole('Loops').min(1, 'At least once.').max(100, 'At most 100 times.').default(1),
  prerendered,
  meanwhile,
  sound,
  decodeOn,
  ...readAsPlayed,
  ...shownSettings,
}).noUnknown();

/** A clip or a timeline played to its deadlines. */
export type Playback = PlayedShape;
export const playback: KindFacts<Playback> = { ...playedFacts, name: 'Playback' };
