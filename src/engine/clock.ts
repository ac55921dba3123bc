/** Microseconds on the host's monotonic clock; comparable between threads and processes of this host. */
export function monotonicUs(): number {
  return Number(process.hrtime.bigint()) / 1000;
}

/** Resolves after at least `us` microseconds; at once when that is past. */
export function sleepUs(us: number): Promise<void> {
  return us <= 0 ? Promise.resolve() : new Promise((resolve) => { setTimeout(resolve, Math.ceil(us / 1000)); });
}
