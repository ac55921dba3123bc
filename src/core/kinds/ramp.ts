import { quantity } from '../format';
import { array, number, object, string } from '../edge/strict';
import type { WorkedIn } from '../playback/settings';
import type { PlaybackScale } from '../playback/slots';
import { causeLabel } from '../sentences/playback';
import type { RampFamily, RampResult } from '../timeline/ramp';
import type { KindFacts } from './kind';
import { decodeOn, readAsPlayed, scale, shownSettings, target } from './shared/asked';
import { count } from './shared/metrics';
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
  mostTold,
  readTold,
  threadsTold,
  underWayTold,
  workedTold,
} from './shared/told';
import { rampSentence } from '../sentences/timeline';

export interface RampSettings extends TimelineCommon, DecodedOn, ReadAsPlayed, WorkedIn {
  readonly kind: 'ramp';
  readonly family: RampFamily;
  readonly most: number;
  /** Length of one probe. */
  readonly seconds: number;
  readonly scales: readonly PlaybackScale[];
}

export const rampInput = object({
  ...target,
  ...shownSettings,
  decodeOn,
  ...readAsPlayed,
  family: string()
    .oneOf(['streams', 'grades'] as const, 'Choose what to add.')
    .required('Choose what to add.'),
  most: number()
    .typeError('The most must be a number.')
    .integer('It must be a whole number.')
    .min(1, 'At least one.')
    .max(64, 'At most 64.')
    .default(16),
  seconds: number()
    .typeError('Give the time as a number.')
    .min(1, 'Play each for at least 1 s.')
    .max(60, 'At most 60 s each.')
    .default(3),
  scales: array(scale.required())
    .min(1, 'Choose at least one scale.')
    .required('Choose at least one scale.')
    .default(['full', 'half', 'quarter']),
}).noUnknown();

/** More and more streams or grades until slots drop. */
export interface Ramp extends TimelineShape {
  readonly settings: RampSettings;
  readonly summary: RampResult;
}

export const ramp: KindFacts<Ramp> = {
  name: 'Load ramp',
  page: timelinePage,
  names: ({ subject, settings: { family, scales } }) =>
    playedNames(subject, `by ${family}, ${scales.join(', ')} scale`),
  told: {
    family: (family) => ({ 'Ramp of': family }),
    most: mostTold,
    seconds: (seconds) => ({ 'Length of a probe': quantity(seconds, 's') }),
    scales: (scales) => ({ 'Playback scale': scales.join(', ') }),
    threads: threadsTold,
    warm: readTold,
    cache: aside('told with the system’s cache'),
    underWay: underWayTold,
    ...workedTold,
    decoding: decodingTold,
  },
  under: ({ subject, settings }) => playedUnder(subject, settings),
  answer: ({ summary }) => rampSentence(summary, causeLabel),
  overheadMs: 5_000,
  metrics: [
    count('fullLevel', 'Most that plays at full scale', 'levels'),
    count('halfLevel', 'Most that plays at half scale', 'levels'),
    count('quarterLevel', 'Most that plays at quarter scale', 'levels'),
  ],
  values: ({ summary }) =>
    Object.fromEntries(summary.edges.map(({ scale: at, plays }) => [`${at}Level`, plays])),
};
