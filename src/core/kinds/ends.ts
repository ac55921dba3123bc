const badEnds: readonly string[] = ['failed', 'crashed', 'hung', 'interrupted'];

/** Whether a trial came to an end that nobody asked for: what is asked for again then is a further attempt at the same. @param status of the trial */
export function endedBadly(status: string): boolean {
  return badEnds.includes(status);
}
