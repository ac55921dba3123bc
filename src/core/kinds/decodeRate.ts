import { object } from '../edge/strict';
import type { RateResult } from '../decode/result';
import { toNumber, type Rational } from '../time/rational';
import type { KindFacts } from './kind';
import { clipIds, passSeconds, whole } from './shared/asked';
import { decodeAnswer, decodeNames, decodePage, decodeUnder, type DecodeShape } from './shared/decode';
import { time } from './shared/metrics';
import { aside, passTold } from './shared/told';

/** How fast a format decodes in software, alone. */
export interface RateSettings {
  readonly kind: 'decode-rate';
  readonly passSeconds: number;
  readonly passes: number;
}

export const decodeRateInput = object({
  clipIds,
  passSeconds,
  passes: whole('Passes').min(1, 'At least one pass.').max(20, 'At most 20 passes.').default(3),
}).noUnknown();

/** How fast a format decodes in software, alone and from memory. */
export interface DecodeRate extends DecodeShape {
  readonly settings: RateSettings;
  readonly summary: RateResult;
}

/** ms for a second of media at so many frames per second. */
const perMediaSecond = (media: Rational | null, framesPerSecond: number | undefined) =>
  media && framesPerSecond ? (toNumber(media) * 1000) / framesPerSecond : null;

export const decodeRate: KindFacts<DecodeRate> = {
  name: 'Decode rate',
  page: decodePage,
  names: ({ subject }) => decodeNames(subject),
  told: { passSeconds: passTold, passes: aside('more passes make the same figure surer') },
  under: decodeUnder,
  answer: decodeAnswer,
  overheadMs: 3_000,
  metrics: [
    time('decodeOne', 'Decoding on one core, per second of media', 'ms'),
    time('decodeAll', 'Decoding on all cores, per second of media', 'ms'),
    time('firstFrame', 'First frame from the decoder', 'ms'),
  ],
  values: ({ summary, rate: media }) => ({
    decodeOne: perMediaSecond(media, summary.one?.framesPerSecond.median),
    decodeAll: perMediaSecond(media, summary.all?.framesPerSecond.median),
    firstFrame: summary.firstFrameMs,
  }),
};
