import { and, eq, gte, ilike, inArray, isNotNull, isNull, lt, sql, type SQL } from 'drizzle-orm';
import type { TrialKind } from '@/core/kinds/kinds';
import type { Grade } from '@/core/playback/grade';
import type { TrialStatus } from '../kinds';
import { trials } from '../schema';
import { plain } from './pattern';

/** Which trials are wanted; what is left out does not narrow them. */
export interface TrialFilter<Kind extends TrialKind = TrialKind> {
  readonly kinds?: readonly Kind[];
  readonly statuses?: readonly TrialStatus[];
  /** Part of the name of what was tried, in any case of letters. */
  readonly subject?: string;
  /** Read from or written to. */
  readonly volumeId?: string;
  readonly rigId?: string;
  readonly clipIds?: readonly string[];
  readonly timelineId?: string;
  readonly grades?: readonly Grade[];
  /** Whether something puts the result in doubt. */
  readonly inDoubt?: boolean;
  /** Queued at this time or later. */
  readonly since?: Date;
  /** Queued before this time. */
  readonly until?: Date;
}

export function matching(filter: TrialFilter): SQL | undefined {
  const { kinds, statuses, subject, volumeId, rigId, clipIds, timelineId } = filter;
  const { grades, inDoubt, since, until } = filter;
  return and(
    kinds && inArray(trials.kind, [...kinds]),
    statuses && inArray(trials.status, [...statuses]),
    subject === undefined ? undefined : ilike(trials.name, `%${plain(subject)}%`),
    volumeId === undefined ? undefined : sql`${trials.volumeIds} @> array[${volumeId}]`,
    rigId === undefined ? undefined : eq(trials.rigId, rigId),
    clipIds && inArray(trials.clipId, [...clipIds]),
    timelineId === undefined ? undefined : eq(trials.timelineId, timelineId),
    grades && inArray(trials.grade, [...grades]),
    inDoubt === undefined ? undefined : inDoubt ? isNotNull(trials.doubt) : isNull(trials.doubt),
    since && gte(trials.createdAt, since),
    until && lt(trials.createdAt, until),
  );
}
