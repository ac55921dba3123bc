/** What happened to processor time on a rig over a stretch of time, µs over all cores. */
export interface ProcessorUse {
  /** The trial's processes ran. */
  readonly trialUs: number;
  /** Their threads were ready and waited for a core. */
  readonly waitedUs: number;
  /** Other processes ran, the host's share not counted in. */
  readonly othersUs: number;
  /** The host of a virtual machine took. */
  readonly stolenUs: number;
  /** The system held the trial's processes to a share that was set for them. */
  readonly heldUs: number;
}

/**
 * Of the processor time that a trial's processes wanted, the share that they did not get because of others, 0 to 1. Threads
 * also wait for each other: of their waiting only as much counts as others ran, or as they were held back. Of what the host
 * took they had their part.
 */
export function lostShare({ trialUs, waitedUs, othersUs, stolenUs, heldUs }: ProcessorUse): number {
  const stolen = trialUs + othersUs > 0 ? (stolenUs * trialUs) / (trialUs + othersUs) : 0;
  const lost = Math.min(waitedUs, othersUs + heldUs) + stolen;
  return lost > 0 ? lost / (lost + trialUs) : 0;
}
