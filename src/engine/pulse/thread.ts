import koffi from 'koffi';

/** What a thread can be told and asked on Linux. */
export interface ThreadCalls {
  /** Keeps the calling thread on one core. Returns whether the system allowed it. */
  readonly keepOn: (core: number) => boolean;
  /** Processor time of the calling thread so far, µs. */
  readonly processorUs: () => number;
}

/** Room for 1 024 cores, as the system's own mask has. Source: sched_setaffinity(2), `cpu_set_t`. */
const maskBytes = 128;
/** Source: clock_gettime(2). */
const threadProcessorClock = 3;

/** The system's calls about threads; null on systems that have none such. */
export function threadCalls(): ThreadCalls | null {
  try {
    const library = koffi.load('libc.so.6');
    const setAffinity = library.func('int sched_setaffinity(int pid, size_t size, const uint8_t *mask)') as (
      pid: number,
      size: number,
      mask: Uint8Array,
    ) => number;
    const getTime = library.func('int clock_gettime(int clock, _Out_ int64_t *time)') as (
      clock: number,
      time: BigInt64Array,
    ) => number;
    const time = new BigInt64Array(2);
    return {
      keepOn: (core) => {
        const mask = new Uint8Array(maskBytes);
        mask[core >> 3] = 1 << (core & 7);
        return setAffinity(0, maskBytes, mask) === 0;
      },
      processorUs: () => {
        getTime(threadProcessorClock, time);
        return Number(time[0]) * 1e6 + Number(time[1]) / 1e3;
      },
    };
  } catch {
    return null;
  }
}

/** The cores that a list names, as the system writes them: "0-3,8". Source: proc_pid_status(5), `Cpus_allowed_list`. */
export function coresOf(list: string): number[] {
  return list
    .trim()
    .split(',')
    .filter(Boolean)
    .flatMap((range) => {
      const [from = 0, to = from] = range.split('-').map(Number);
      return Array.from({ length: to - from + 1 }, (_, index) => from + index);
    });
}
