import { threadsOf, threadTimes, type ThreadTimes } from '../activity';
import type { WatchThreads } from '../codec/decoder';

/** Stages that open codecs or graphs, which have threads of their own. */
export type ThreadOwner = 'decode' | 'process' | 'encode';

/** What threads did, by whose they are. `pool`: threads that do the work of calls, for any stage. */
export type OwnedTimes = Readonly<Record<ThreadOwner | 'main' | 'pool', ThreadTimes>>;

/** Knows which threads of this process belong to which stage: those that were not there before the stage opened something, and were after. */
export class ThreadOwners {
  private readonly owners = new Map<number, ThreadOwner>();
  private readonly last = new Map<number, ThreadTimes>();
  /** Times of threads, also of those that have gone. */
  private readonly sums = new Map<keyof OwnedTimes, { coreUs: number; waitUs: number }>();
  /** Openings take turns: two at once could not be told apart. */
  private opening: Promise<unknown> = Promise.resolve();

  /** For what opens something of a stage. */
  watching(owner: ThreadOwner): WatchThreads {
    return (open) => {
      const opened = this.opening.then(async () => {
        const before = new Set(threadsOf(process.pid));
        const value = await open();
        for (const id of threadsOf(process.pid)) if (!before.has(id)) this.owners.set(id, owner);
        return value;
      });
      this.opening = opened.catch(() => undefined);
      return opened;
    };
  }

  /** Threads of a stage that are there now. */
  countOf(owner: ThreadOwner): number {
    const there = new Set(threadsOf(process.pid));
    let count = 0;
    for (const [id, other] of this.owners) if (other === owner && there.has(id)) count++;
    return count;
  }

  /** What each had used since it began. */
  times(): OwnedTimes {
    const there = threadTimes(process.pid);
    for (const [id, now] of there) {
      const before = this.last.get(id);
      this.last.set(id, now);
      const isMain = id === process.pid;
      const owner = isMain ? 'main' : (this.owners.get(id) ?? 'pool');
      const sum = this.sums.get(owner) ?? { coreUs: 0, waitUs: 0 };
      sum.coreUs += Math.max(0, now.coreUs - (before?.coreUs ?? 0));
      sum.waitUs += Math.max(0, now.waitUs - (before?.waitUs ?? 0));
      this.sums.set(owner, sum);
    }
    // Numbers of threads are used again.
    for (const id of [...this.last.keys()])
      if (!there.has(id)) {
        this.last.delete(id);
        this.owners.delete(id);
      }
    const of = (owner: keyof OwnedTimes) => ({ ...(this.sums.get(owner) ?? { coreUs: 0, waitUs: 0 }) });
    return {
      decode: of('decode'),
      process: of('process'),
      encode: of('encode'),
      main: of('main'),
      pool: of('pool'),
    };
  }
}
