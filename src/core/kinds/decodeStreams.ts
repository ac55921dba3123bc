import { identity, number, object, string } from '../edge/strict';
import { decodingWords, isSoftwareAlone } from '../decode/decoding';
import type { DecodeStreamsResult } from '../decode/result';
import type { WorkedIn } from '../playback/settings';
import type { PlaybackScale } from '../playback/slots';
import { mostStreams } from '../storage/limits';
import { workedInWords } from '../playback/depth';
import { rateLabel, type Rational } from '../time/rational';
import type { KindFacts } from './kind';
import { decodeAnswer, decodeNames, decodePage, decodedUnder, type DecodeShape } from './shared/decode';
import { count } from './shared/metrics';
import { decodeOn, depth, exactRate, whole } from './shared/asked';
import type { DecodedOn } from './shared/timeline';
import { decodingTold, mostTold, scaleTold, stepTold, workedTold } from './shared/told';

/** How many streams decode side by side at a rate. */
export interface DecodeStreamsSettings extends DecodedOn, Pick<WorkedIn, 'depth'> {
  readonly kind: 'decode-streams';
  readonly rate: Rational;
  readonly scale: PlaybackScale;
  readonly seconds: number;
  readonly mostStreams: number;
}

export const decodeStreamsInput = object({
  clipId: identity().required('Choose a clip.'),
  scale: string()
    .oneOf(['full', 'half', 'quarter'] as const, 'Choose full, half or quarter.')
    .default('full'),
  /** Null: the clip's own. */
  rate: exactRate.nullable().default(null),
  seconds: number()
    .typeError('Give the time as a number.')
    .min(1, 'Play at least 1 s.')
    .max(600, 'Play at most 10 minutes.')
    .default(4),
  mostStreams: whole('Streams')
    .min(1, 'At least one stream.')
    .max(mostStreams, `At most ${mostStreams} streams.`)
    .default(16),
  decodeOn,
  depth,
}).noUnknown();

/** How many streams of a format decode side by side at their rate. */
export interface DecodeStreams extends DecodeShape {
  readonly settings: DecodeStreamsSettings;
  readonly summary: DecodeStreamsResult;
}

export const decodeStreams: KindFacts<DecodeStreams> = {
  name: 'Decode streams',
  page: decodePage,
  names: ({ subject, settings: { scale, decoding } }) =>
    decodeNames(
      subject,
      isSoftwareAlone(decoding) ? `${scale} scale` : `${scale} scale, decoded on ${decodingWords(decoding)}`,
    ),
  told: {
    rate: (rate) => ({ 'Played at': rateLabel(rate) }),
    scale: scaleTold,
    seconds: stepTold,
    mostStreams: mostTold,
    decoding: decodingTold,
    depth: workedTold.depth,
  },
  under: ({ subject, settings }) => ({
    ...decodedUnder({ subject }),
    'Processed in': workedInWords(settings, [subject.format]),
  }),
  answer: decodeAnswer,
  overheadMs: 3_000,
  metrics: [count('decodedStreams', 'Streams decoded', 'streams')],
  values: ({ summary }) => ({ decodedStreams: summary.clean }),
};
