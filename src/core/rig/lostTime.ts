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

/** Time of a trial's threads, µs over all of them. */
export interface LostTime {
  /** Others had the core, or the system held the trial back. */
  readonly lostUs: number;
  /** Of that, the system held it back. */
  readonly heldUs: number;
  /** They waited for each other. */
  readonly siblingUs: number;
  /** Ready to run, running or not. */
  readonly readyUs: number;
}

/**
 * Of the time in which a trial's threads were ready to run, that in which others had their core, µs. Threads also wait for
 * each other: a core that one waits for is another process's by the share of others in all that runs. What the system held
 * back is lost in full; of what the host took the trial had its part.
 */
export function lostTime({ trialUs, waitedUs, othersUs, stolenUs, heldUs }: ProcessorUse): LostTime {
  const ofOthers = trialUs + othersUs > 0 ? othersUs / (trialUs + othersUs) : 0;
  const held = Math.min(waitedUs, heldUs);
  const stolen = stolenUs * (1 - ofOthers);
  return {
    lostUs: held + (waitedUs - held) * ofOthers + stolen,
    heldUs: held,
    siblingUs: (waitedUs - held) * (1 - ofOthers),
    readyUs: trialUs + waitedUs + stolen,
  };
}
