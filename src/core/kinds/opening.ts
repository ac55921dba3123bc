import { identity, object, string } from '../edge/strict';
import { openingSentence } from '../sentences/tasks';
import type { OpeningSummary } from '../tasks/opening';
import type { WorkedIn } from '../playback/settings';
import type { KindFacts } from './kind';
import { shownSettings, target, whole } from './shared/asked';
import { time } from './shared/metrics';
import { playedNames, playedUnder } from './shared/played';
import { taskPage } from './shared/task';
import type { TimelineCommon, TimelineShape } from './shared/timeline';
import { cacheTold, threadsTold, workedTold } from './shared/told';

export const openingEach = ['whole', 'picture'] as const;
export type OpeningEach = (typeof openingEach)[number];

export interface OpeningSettings extends TimelineCommon, WorkedIn {
  readonly kind: 'opening';
  /** Clips that are worked on at a time. */
  readonly lanes: number;
  /** Of each clip its header, thumbnails and sound peaks, or its header and its first picture alone; absent in trials from before it could be chosen. */
  readonly each?: OpeningEach;
}

/** Of a timeline, a clip, or the first clips of a volume one after the other. */
export const openingInput = object({
  ...target,
  ...shownSettings,
  clipsOfVolume: identity().nullable().default(null),
  clips: whole('The number of clips')
    .min(1, 'Open at least 1 clip.')
    .max(1_000, 'Open at most 1 000 clips.')
    .default(12),
  lanes: whole('Clips at a time')
    .min(1, 'Work on at least 1 clip at a time.')
    .max(16, 'Work on at most 16 clips at a time.')
    .default(2),
  each: string().oneOf(openingEach, 'Open each clip as a whole, or to its first picture.').default('whole'),
}).noUnknown();

/** From nothing until a timeline's first picture, all its thumbnails and all its sound peaks are there. */
export interface Opening extends TimelineShape {
  readonly settings: OpeningSettings;
  readonly summary: OpeningSummary;
}

export const opening: KindFacts<Opening> = {
  name: 'Opening',
  page: taskPage,
  names: ({ subject, settings: { lanes, each, warm } }) => {
    const count = Object.keys(subject.timeline.media).length;
    const clips = count === 1 ? '1 clip' : `${count} clips, ${lanes} at a time`;
    return playedNames(
      subject,
      `${clips}${each === 'picture' ? ', to the first picture' : ''}${warm ? ', warm' : ''}`,
    );
  },
  told: {
    lanes: (lanes) => ({ 'Clips at a time': String(lanes) }),
    each: (each) => ({ 'Of each clip': each === 'picture' ? 'index and first picture' : 'all' }),
    threads: threadsTold,
    ...workedTold,
    warm: cacheTold,
  },
  under: ({ subject, settings }) => playedUnder(subject, settings),
  answer: ({ summary }) => openingSentence(summary),
  overheadMs: 3_000,
  metrics: [
    time('firstPicture', 'First picture', 'ms'),
    time('clipOpening', 'First picture of a clip, median', 'ms'),
    time('openingTime', 'Thumbnails and sound peaks, per clip', 'ms'),
  ],
  values: ({ summary: { firstMs, elapsedMs, whole: done, clips, each } }) => ({
    firstPicture: firstMs,
    clipOpening: each?.median.pictureMs ?? null,
    openingTime: !each && done === clips && clips > 0 ? elapsedMs / clips : null,
  }),
};
