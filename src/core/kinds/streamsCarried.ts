import { identity, number, object } from '../edge/strict';
import { streamsSentence } from '../sentences/storage';
import { mostStreams } from '../storage/limits';
import type { StreamsSummary } from '../storage/streams';
import type { KindFacts } from './kind';
import { count } from './shared/metrics';
import { storageNames, storagePage, storageUnder, type StorageShape } from './shared/storage';
import { aside, mostTold, stepTold } from './shared/told';

export interface StreamsSettings {
  readonly kind: 'streams-carried';
  readonly clipId: string;
  readonly clipPath: string;
  /** How long each number of streams is played. */
  readonly seconds: number;
  readonly mostStreams: number;
}

/** Numbers of streams that a ramp has tried, in order. */
export interface RampRecord {
  readonly streams: readonly number[];
}

export const streamsInput = object({
  clipId: identity().required('Choose a clip.'),
  seconds: number()
    .typeError('Give the time as a number.')
    .min(2, 'Play each number of streams for at least 2 s.')
    .max(120, 'At most 120 s each.')
    .default(5),
  mostStreams: number()
    .typeError('Streams must be a number.')
    .integer()
    .min(1, 'Try at least one stream.')
    .max(mostStreams, `At most ${mostStreams} streams.`)
    .default(mostStreams),
}).noUnknown();

/** How many streams of a clip its volume carries. */
export interface StreamsCarried extends StorageShape {
  readonly settings: StreamsSettings;
  readonly record: RampRecord;
  readonly summary: StreamsSummary;
}

export const streamsCarried: KindFacts<StreamsCarried> = {
  name: 'Streams carried',
  page: storagePage,
  names: ({ subject }) => storageNames(subject, ''),
  told: {
    clipId: aside('told by its path'),
    clipPath: (path) => ({ Reads: path }),
    seconds: stepTold,
    mostStreams: mostTold,
  },
  under: storageUnder,
  answer: ({ summary }) => streamsSentence(summary),
  overheadMs: 2_000,
  metrics: [count('streams', 'Streams carried', 'streams')],
  values: ({ summary }) => ({ streams: summary.clean }),
};
