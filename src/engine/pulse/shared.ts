/** Memory that the pulse's thread and its reader share. */
export interface PulseShared {
  readonly buffer: SharedArrayBuffer;
  readonly cores: readonly number[];
}

/** What the thread does: sleeps, beats at leisure beside a run, or beats as fast as its rests allow before one. */
export const pulseMode = { resting: 0, beating: 1, before: 2, unable: 3 } as const;

/** Beats that are kept until they are read; the oldest go first. */
export const beatsKept = 1_024;

export function createPulseShared(cores: readonly number[]): PulseShared {
  return { buffer: new SharedArrayBuffer(8 + beatsKept * 12), cores };
}

/** `control[0]`: the mode. `control[1]`: how many beats there have been. Of each beat: its processor time, µs, and its core. */
export function pulseViews({ buffer }: PulseShared) {
  return {
    control: new Int32Array(buffer, 0, 2),
    us: new Float64Array(buffer, 8, beatsKept),
    core: new Int32Array(buffer, 8 + beatsKept * 8, beatsKept),
  };
}
