import { quantity } from '../format';
import { identity, number, object, string } from '../edge/strict';
import type { CacheWay } from '../media/coldProof';
import { mostStreams } from '../storage/limits';
import { mostUnderWay } from '../storage/underWay';
import { cacheWay, underWay, whole } from './shared/asked';
import { throughputSentence } from '../sentences/storage';
import type { ThroughputSummary } from '../storage/throughput';
import type { KindFacts } from './kind';
import { rate } from './shared/metrics';
import { storageNames, storagePage, storageUnder, type StorageShape } from './shared/storage';
import { aside } from './shared/told';

export const throughputTests = [
  'sequential-read',
  'sequential-write',
  'frame-paced',
  'random-read',
  'mixed',
  'staircase',
] as const;

export type ThroughputTest = (typeof throughputTests)[number];

export interface ThroughputSettings {
  readonly kind: 'throughput';
  readonly test: ThroughputTest;
  readonly blockBytes: number;
  /** Each repeat ends when it has moved so many bytes or taken so long, whichever is first. */
  readonly bytes: number;
  readonly seconds: number;
  readonly repeats: number;
  /** Readers side by side; frame-paced only. */
  readonly streams: number;
  /** The clip that is read, or null for a test file of Navvy's own. */
  readonly clipId: string | null;
  readonly clipPath: string | null;
  /** Requests that a reader or writer has under way; absent in trials from before it could be chosen: one. Of frame-paced reading always one, of a staircase each of `stairs` in turn. */
  readonly underWay?: number;
  /** Whether reads go past the system's cache or through it; absent in trials from before it could be chosen: past it. */
  readonly cache?: CacheWay;
}

export const throughputInput = object({
  volumeId: identity().required('Choose a volume.'),
  test: string().oneOf(throughputTests, 'Choose a test.').required('Choose a test.'),
  blockBytes: number()
    .integer()
    .min(4_096, 'A block has at least 4 kiB.')
    .max(2 ** 26, 'A block has at most 64 MiB.')
    .test(
      'pages',
      'A block is a whole number of 4 kiB pages.',
      (value) => value === undefined || value % 4_096 === 0,
    )
    .default(4 * 2 ** 20),
  bytes: number()
    .typeError('Give the size as a number.')
    .integer('Bytes must be a whole number.')
    .min(2 ** 20, 'Move at least 1 MB.')
    .max(1e13, 'At most 10 TB.')
    .required('Say how much to move.'),
  seconds: number()
    .typeError('Give the time as a number.')
    .min(1, 'Take at least 1 s.')
    .max(7_200, 'Take at most two hours.')
    .required('Say how long at most.'),
  repeats: whole('Repeats').min(1, 'At least one repeat.').max(20, 'At most 20 repeats.').default(3),
  streams: whole('Streams')
    .min(1, 'At least one stream.')
    .max(mostStreams, `At most ${mostStreams} streams.`)
    .default(1),
  clipId: identity().nullable().default(null),
  underWay,
  cache: cacheWay.default('past'),
}).noUnknown();

/** What a volume sustains. */
export interface Throughput extends StorageShape {
  readonly settings: ThroughputSettings;
  readonly record: never;
  readonly summary: ThroughputSummary;
}

const testName = ({ test }: ThroughputSettings) =>
  test === 'staircase' ? 'requests under way' : test.replace('-', ' ');

/** What is otherwise than usual of how it reads or writes. */
const howOf = (settings: ThroughputSettings): string =>
  [
    testName(settings),
    hasUnderWay(settings.test) && (settings.underWay ?? 1) > 1 ? `${settings.underWay} under way` : '',
    settings.cache === 'through' ? 'through the cache' : '',
  ]
    .filter(Boolean)
    .join(', ');

/** Tests that may read through the system's cache: those that read a file in order, once. */
export const readsThrough = (test: ThroughputTest): boolean =>
  test === 'sequential-read' || test === 'staircase';

/** Whether how many requests are under way is a choice of a test. */
export const hasUnderWay = (test: ThroughputTest): boolean => test !== 'frame-paced' && test !== 'staircase';

export const throughput: KindFacts<Throughput> = {
  name: 'Throughput',
  page: storagePage,
  names: ({ subject, settings }) => storageNames(subject, howOf(settings)),
  test: testName,
  told: {
    test: aside('it is the test itself'),
    blockBytes: (bytes) => ({ Block: `${bytes / 1024} kiB` }),
    bytes: (bytes, { seconds }) => ({
      Length: `${quantity(bytes / 1e6, 'MB')} or ${quantity(seconds, 's')}`,
    }),
    seconds: aside('told with the bytes'),
    repeats: (repeats) => ({ 'Repeats in a trial': String(repeats) }), // later ones may come from the server's memory
    streams: (streams, { test }) => ({ Streams: test === 'frame-paced' ? String(streams) : '1' }),
    clipId: aside('told by its path'),
    clipPath: (path) => ({ Reads: path ?? 'a test file' }),
    underWay: (requests, { test }) => ({
      'Requests under way':
        test === 'staircase' ? `1 to ${mostUnderWay}` : String(hasUnderWay(test) ? (requests ?? 1) : 1),
    }),
    cache: (way) => ({
      'System cache': way === 'through' ? 'cold, read through it' : 'cold',
    }),
  },
  under: storageUnder,
  answer: ({ summary, framePacedStreams: streams }) =>
    throughputSentence(summary, streams === null ? null : { streams }),
  overheadMs: 2_000,
  metrics: [rate('read', 'Sustained reading', 'MB/s'), rate('write', 'Sustained writing', 'MB/s')],
  values: ({ summary }) => ({
    read: summary.read && summary.read.sustained / 1e6,
    write: summary.write && summary.write.sustained / 1e6,
  }),
};
