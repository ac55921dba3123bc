/** Microseconds on the host's monotonic clock; comparable between threads and processes of this host. */
export function monotonicUs(): number {
  return Number(process.hrtime.bigint()) / 1000;
}

/** Resolves after at least `us` microseconds; at once when that is past. */
export function sleepUs(us: number): Promise<void> {
  return us <= 0 ? Promise.resolve() : new Promise((resolve) => { setTimeout(resolve, Math.ceil(us / 1000)); });
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
export const hostClock: Clock = { now: monotonicUs, sleep: sleepUs, turn: () => new Promise((resolve) => { setImmediate(resolve); }) };
