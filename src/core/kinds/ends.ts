/** Statuses in which a trial neither waits nor runs. */
export const endedStatuses = ['done', 'cancelled', 'failed', 'crashed', 'hung', 'interrupted'] as const;
export type EndedStatus = (typeof endedStatuses)[number];

const badEnds: readonly string[] = ['failed', 'crashed', 'hung', 'interrupted'];

/** Whether a trial came to an end that nobody asked for: what is asked for again then is a further attempt at the same. @param status of the trial */
export function endedBadly(status: string): boolean {
  return badEnds.includes(status);
}
