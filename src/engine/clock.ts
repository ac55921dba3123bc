/** Microseconds on the host's monotonic clock; comparable between threads and processes of this host. */
export function monotonicUs(): number {
  return Number(process.hrtime.bigint()) / 1000;
}

/** What some work took, µs: time, and processor time of all threads of this process meanwhile. */
export interface CoreTimed {
  readonly us: number;
  readonly coreUs: number;
}

/** Does some work and times it. What else this process does meanwhile is counted as processor time too. */
export async function timed<Value>(
  work: () => Promise<Value>,
): Promise<{ readonly value: Value } & CoreTimed> {
  const [cpu, begun] = [process.cpuUsage(), monotonicUs()];
  const value = await work();
  const us = monotonicUs() - begun;
  const { user, system } = process.cpuUsage(cpu);
  return { value, us, coreUs: user + system };
}

/** Resolves after at least `us` microseconds; at once when that is past. */
export function sleepUs(us: number): Promise<void> {
  return us <= 0
    ? Promise.resolve()
    : new Promise((resolve) => {
        setTimeout(resolve, Math.ceil(us / 1000));
      });
}

/** Time as a player sees it. */
export interface Clock {
  /** Now, µs; never goes back. */
  now(): number;
  /** Resolves after at least `us` microseconds; at once when that is past. */
  sleep(us: number): Promise<void>;
  /** Resolves once all that is due now has been seen to. */
  turn(): Promise<void>;
}

/** The host's monotonic clock. */
export const hostClock: Clock = {
  now: monotonicUs,
  sleep: sleepUs,
  turn: () =>
    new Promise((resolve) => {
      setImmediate(resolve);
    }),
};
