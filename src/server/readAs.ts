import type { CacheWay } from '@/core/media/coldProof';
import type { ReadAsPlayed } from '@/core/kinds/shared/timeline';
import { greatest } from '@/core/stats/extremes';
import { latestThroughput } from '@/db/queries/trials';
import { currentRigId } from './rig';

/**
 * The fewest requests under way that network volumes need for their full rate, as a staircase found last; the most of
 * several. One where there is no such volume, or none was measured.
 */
export async function neededUnderWay(volumeIds: readonly string[]): Promise<number> {
  const latest = await latestThroughput(await currentRigId());
  return greatest(
    latest.flatMap(({ subject, summary }) =>
      subject.volumeKind === 'network' && subject.volumeId !== null && volumeIds.includes(subject.volumeId)
        ? (summary?.staircase?.needed ?? [])
        : [],
    ),
    1,
  );
}

export interface ReadAsked {
  readonly warm: boolean;
  readonly cache: CacheWay;
  readonly underWay: number | null;
}

/** How a run's files are read, as its settings keep it: what is as it always was is left out. @param volumeIds that it reads from */
export async function readAs(
  { warm, cache, underWay }: ReadAsked,
  volumeIds: readonly string[],
): Promise<ReadAsPlayed> {
  const requests = underWay ?? (await neededUnderWay(volumeIds));
  return {
    ...(cache === 'past' || warm ? {} : { cache }),
    ...(requests === 1 ? {} : { underWay: requests }),
  };
}
