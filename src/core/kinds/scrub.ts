import { array, identity, number, object, string } from '../edge/strict';
import type { WorkedIn } from '../playback/settings';
import type { PlaybackScale } from '../playback/slots';
import type { ScrubSummary } from '../scrub/analyse';
import { builtInGestures, type BuiltInGesture } from '../scrub/gesture';
import { scrubSentence } from '../sentences/timeline';
import type { KindFacts } from './kind';
import { decodeOn, readAsPlayed, scale, shownSettings, target } from './shared/asked';
import { inPercent, processorMetric, share, time } from './shared/metrics';
import { playedNames, playedUnder } from './shared/played';
import {
  timelinePage,
  type DecodedOn,
  type ReadAsPlayed,
  type TimelineCommon,
  type TimelineShape,
} from './shared/timeline';
import {
  aside,
  decodingTold,
  readTold,
  scaleTold,
  threadsTold,
  underWayTold,
  workedTold,
} from './shared/told';

export interface ScrubSettings extends TimelineCommon, DecodedOn, ReadAsPlayed, WorkedIn {
  readonly kind: 'scrub';
  readonly scale: PlaybackScale;
  readonly gesture:
    | { readonly kind: BuiltInGesture; readonly seed: number; readonly speed: number }
    | { readonly kind: 'recorded'; readonly gestureId: string; readonly name: string };
}

export const scrubInput = object({
  ...target,
  ...shownSettings,
  decodeOn,
  ...readAsPlayed,
  scale: scale.default('full'),
  gestures: array(
    string()
      .oneOf([...builtInGestures, 'recorded'] as const, 'Choose a gesture.')
      .required(),
  )
    .min(1, 'Choose at least one gesture.')
    .max(20)
    .required('Choose at least one gesture.'),
  gestureId: identity().nullable().default(null),
  seed: number().integer('The seed is a whole number.').min(0).max(4_294_967_295).default(1),
  speed: number()
    .oneOf([2, 4, 8, -2, -4, -8], 'Shuttle at 2, 4 or 8 times, forwards or backwards.')
    .default(4),
}).noUnknown();

/** A movement of the playhead over a timeline. */
export interface Scrub extends TimelineShape {
  readonly settings: ScrubSettings;
  readonly summary: ScrubSummary;
}

const gestureName = (gesture: ScrubSettings['gesture']): string => {
  if (gesture.kind === 'recorded') return gesture.name;
  return gesture.kind === 'jump-play' ? 'jump and play' : gesture.kind.replace('-', ' ');
};

export const scrub: KindFacts<Scrub> = {
  name: 'Scrub',
  page: timelinePage,
  names: ({ subject, settings }) =>
    playedNames(subject, `${gestureName(settings.gesture)}, ${settings.scale} scale`),
  told: {
    gesture: (gesture) => ({
      Gesture:
        gesture.kind === 'recorded'
          ? `${gesture.name} (${gesture.gestureId})`
          : `${gestureName(gesture)}, seed ${gesture.seed}, speed ${gesture.speed}x`,
    }),
    scale: scaleTold,
    threads: threadsTold,
    warm: readTold,
    cache: aside('told with the system’s cache'),
    underWay: underWayTold,
    ...workedTold,
    decoding: decodingTold,
  },
  under: ({ subject, settings }) => playedUnder(subject, settings),
  answer: ({ summary }) => scrubSentence(summary),
  overheadMs: 2_500,
  metrics: [
    time('latencyP50', 'Scrub latency p50', 'ms'),
    time('latencyP95', 'Scrub latency p95', 'ms'),
    share('lag', 'Picture behind playhead, mean', 'slots'),
    { ...processorMetric, id: 'scrubProcessor' },
  ],
  values: ({ summary, processorShare }) => ({
    scrubProcessor: inPercent(processorShare),
    latencyP50: summary.latencyMs?.p50,
    latencyP95: summary.latencyMs?.p95,
    lag: summary.lagSlots.mean,
  }),
};
