import { softwareId } from '../decode/decoding';
import type { CacheWay } from '../media/coldProof';
import { isOneOf, waitKinds, type TrialKind } from '../kinds/kinds';
import { seededRandom } from '../stats/random';
import type { PlaybackScale } from '../playback/slots';

/** What a matrix can measure in each of its cells. */
export const planTests = [
  'playback',
  'scrub',
  'export',
  'pre-render',
  'analysis',
  'opening',
  'streams-carried',
  'decode-rate',
  'throughput',
] as const satisfies readonly TrialKind[];
export type PlanTest = (typeof planTests)[number];

export const planForms = ['originals', 'proxies'] as const;
export type PlanForm = (typeof planForms)[number];

/** In which order a matrix takes its repeats. */
export const planOrders = ['interleaved', 'random'] as const;
export type PlanOrder = (typeof planOrders)[number];

export interface PlanSubject {
  readonly kind: 'clip' | 'timeline';
  readonly id: string;
}

/** The values that a matrix is made of. An empty list of volumes reads each subject from where it lies. */
export interface MatrixChoice {
  readonly subjects: readonly PlanSubject[];
  readonly volumeIds: readonly string[];
  readonly forms: readonly PlanForm[];
  readonly scales: readonly PlaybackScale[];
  /** What decodes: devices, and `softwareId`. Absent in plans from before it could be chosen: software. */
  readonly deviceIds?: readonly string[];
  /** Whether files are read past the system's cache or through it. Absent in plans from before it could be chosen: past it. */
  readonly caches?: readonly CacheWay[];
  /** Kinds that are none of a matrix's have no cells. */
  readonly tests: readonly TrialKind[];
}

/** One condition of a matrix, or the trial that a series repeats; null where the test does not depend on it. */
export interface CellAddress {
  readonly test: TrialKind;
  readonly subject: PlanSubject | null;
  readonly volumeId: string | null;
  readonly form: PlanForm | null;
  readonly scale: PlaybackScale | null;
  /** What decodes it; absent: software. */
  readonly deviceId?: string;
  /** Absent: past the system's cache. */
  readonly cache?: 'through';
}

/** What each test depends on besides itself. */
const dependsOn: Record<
  PlanTest,
  {
    readonly subject: boolean;
    readonly volume: boolean;
    readonly scale: boolean;
    readonly device: boolean;
    readonly cache: boolean;
  }
> = {
  playback: { subject: true, volume: true, scale: true, device: true, cache: true },
  scrub: { subject: true, volume: true, scale: true, device: true, cache: true },
  export: { subject: true, volume: true, scale: false, device: false, cache: false },
  'pre-render': { subject: true, volume: true, scale: false, device: false, cache: false },
  analysis: { subject: true, volume: true, scale: false, device: false, cache: false },
  opening: { subject: true, volume: true, scale: false, device: false, cache: false },
  'streams-carried': { subject: true, volume: true, scale: false, device: false, cache: false },
  'decode-rate': { subject: true, volume: false, scale: false, device: false, cache: false },
  throughput: { subject: false, volume: true, scale: false, device: false, cache: true },
};

/**
 * All conditions of a matrix, each once: tests by subjects by forms by volumes by
 * scales by devices by ways of reading, leaving out what a test does not depend on and timelines where a test
 * takes clips alone.
 */
export function expandMatrix({
  subjects,
  volumeIds,
  forms,
  scales,
  deviceIds = [softwareId],
  caches = ['past'],
  tests,
}: MatrixChoice): CellAddress[] {
  const volumes: readonly (string | null)[] = volumeIds.length > 0 ? volumeIds : [null];
  const cells: CellAddress[] = [];
  for (const test of tests.filter((kind): kind is PlanTest => isOneOf(planTests, kind))) {
    const on = dependsOn[test];
    const takesTimelines = isOneOf(['playback', 'scrub', ...waitKinds], test);
    const whats: readonly (PlanSubject | null)[] = on.subject
      ? subjects.filter(({ kind }) => kind === 'clip' || takesTimelines)
      : [null];
    for (const subject of whats) {
      for (const form of on.subject ? forms : [null]) {
        for (const volumeId of on.volume ? volumes : [null]) {
          if (test === 'throughput' && volumeId === null) continue;
          for (const scale of on.scale ? scales : [null]) {
            for (const deviceId of on.device ? deviceIds : [softwareId]) {
              for (const cache of on.cache ? caches : (['past'] as const))
                cells.push({
                  test,
                  subject,
                  volumeId,
                  form,
                  scale,
                  ...(deviceId === softwareId ? {} : { deviceId }),
                  ...(cache === 'past' ? {} : { cache }),
                });
            }
          }
        }
      }
    }
  }
  return cells;
}

/** One run of a matrix: a cell, and which of its repeats. */
export interface PlanStep {
  readonly cell: number;
  readonly repeat: number;
}

/**
 * The order of a matrix's runs. Each round takes every cell once, so that whatever
 * drifts over the hours touches all alike: interleaved rounds go back and forth
 * (A B C, C B A), so that a steady drift cancels out between cells; random rounds
 * are shuffled from the seed (randomised blocks; Fisher 1935, Durstenfeld 1964).
 */
export function orderSteps(cells: number, repeats: number, order: PlanOrder, seed: number): PlanStep[] {
  const random = seededRandom(seed);
  return Array.from({ length: repeats }, (_, repeat) => {
    const round = Array.from({ length: cells }, (__, cell) => cell);
    if (order === 'interleaved' && repeat % 2 === 1) round.reverse();
    if (order === 'random') {
      for (let last = cells - 1; last > 0; last--) {
        const other = Math.floor(random() * (last + 1));
        [round[last], round[other]] = [round[other] as number, round[last] as number];
      }
    }
    return round.map((cell) => ({ cell, repeat }));
  }).flat();
}
