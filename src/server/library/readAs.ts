import type { CacheWay } from '@/core/media/coldProof';
import type { ReadAsPlayed } from '@/core/kinds/shared/timeline';
import { greatest } from '@/core/stats/extremes';
import { latestThroughput } from '@/db/queries/trials';
import { currentRigId } from '../platform/rig';

/** The fewest requests under way that each network volume needs for its full rate, as its last staircase found; those without one are left out. */
export type NeededUnderWay = ReadonlyMap<string, number>;

export async function neededByVolume(): Promise<NeededUnderWay> {
  const latest = await latestThroughput(await currentRigId());
  return new Map(
    latest.flatMap(({ subject: { volumeId, volumeKind }, summary }): [string, number][] =>
      volumeKind === 'network' && volumeId !== null && summary?.staircase
        ? [[volumeId, summary.staircase.needed]]
        : [],
    ),
  );
}

/** Of several volumes the most that one of them needs; one where none of them is known to need more. */
export function neededOf(volumeIds: readonly string[], needed: NeededUnderWay): number {
  return greatest(
    volumeIds.flatMap((id) => needed.get(id) ?? []),
    1,
  );
}

export interface ReadAsked {
  readonly warm: boolean;
  readonly cache: CacheWay;
  readonly underWay: number | null;
}

/**
 * How a run's files are read, as its settings keep it: what is as it always was is left out.
 * @param volumeIds that it reads from
 * @param needed what volumes need, where many runs are made at once; looked up where it is left out and wanted
 */
export async function readAs(
  { warm, cache, underWay }: ReadAsked,
  volumeIds: readonly string[],
  needed?: NeededUnderWay,
): Promise<ReadAsPlayed> {
  const requests = underWay ?? neededOf(volumeIds, needed ?? (await neededByVolume()));
  return {
    ...(cache === 'past' || warm ? {} : { cache }),
    ...(requests === 1 ? {} : { underWay: requests }),
  };
}
