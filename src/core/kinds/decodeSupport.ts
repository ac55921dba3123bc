import { array, identity, object, string } from '../edge/strict';
import type { SupportResult } from '../decode/result';
import { fewestPairs, mostPairs } from '../decode/verdict';
import type { KindFacts } from './kind';
import { passSeconds, whole } from './shared/asked';
import { decodeAnswer, decodeNames, decodePage, decodeUnder, type DecodeShape } from './shared/decode';
import { rate } from './shared/metrics';
import { aside, passTold } from './shared/told';

/** Whether a device decodes it faster than software: pairs A B A B. */
export interface SupportSettings {
  readonly kind: 'decode-support';
  readonly deviceId: string;
  readonly passSeconds: number;
  /** Pairs at most; three are always run. */
  readonly mostPairs: number;
}

export const decodeSupportInput = object({
  /** Empty: one clip of every format that has no verdict yet. */
  clipIds: array(identity().required()).max(10_000).default([]),
  /** Empty: all that can be used. */
  deviceIds: array(string().max(200).required()).max(100).default([]),
  passSeconds: passSeconds.default(1),
  mostPairs: whole('Pairs')
    .min(fewestPairs, `At least ${fewestPairs} pairs.`)
    .max(30, 'At most 30 pairs.')
    .default(mostPairs),
}).noUnknown();

/** Whether a decode device speeds a format up. */
export interface DecodeSupport extends DecodeShape {
  readonly settings: SupportSettings;
  readonly summary: SupportResult;
}

export const decodeSupport: KindFacts<DecodeSupport> = {
  name: 'Decode support',
  page: decodePage,
  names: ({ subject }) => decodeNames(subject, `on ${subject.device?.name ?? 'a device'}`),
  told: {
    deviceId: aside('told as the device'),
    passSeconds: passTold,
    mostPairs: aside('pairs end with a verdict; more of them make the same ratio surer'),
  },
  under: decodeUnder,
  answer: decodeAnswer,
  overheadMs: 3_000,
  metrics: [rate('deviceRatio', 'Device over software on one core', 'x')],
  values: ({ summary }) => ({ deviceRatio: summary.parts[0]?.ratio.value }),
};
