import type { Clock } from '../clock';
import type { OpenPresenter } from '../playback/presenter';

/** Time that goes on only when nothing is left to do now: what runs by it is exact, and alike on every machine. */
export class VirtualClock implements Clock {
  private time = 0;
  /** What is being seen to now: turns, and work that takes none of this clock's time. */
  private underWay = 0;
  /** In order of time; of one time in order of asking. */
  private readonly sleepers: { readonly until: number; readonly wake: () => void }[] = [];

  now(): number {
    return this.time;
  }

  sleep(us: number): Promise<void> {
    return us <= 0 ? Promise.resolve() : this.until(this.time + us);
  }

  until(time: number): Promise<void> {
    return new Promise((wake) => {
      const at = this.sleepers.findLastIndex(({ until }) => until <= time);
      this.sleepers.splice(at + 1, 0, { until: time, wake });
    });
  }

  turn(): Promise<void> {
    return this.during(
      new Promise((resolve) => {
        setImmediate(resolve);
      }),
    );
  }

  /** Lets no time pass while a piece of real work is done, however long that takes. */
  during<Result>(work: Promise<Result>): Promise<Result> {
    this.underWay++;
    return work.finally(() => {
      this.underWay--;
    });
  }

  /** Lets time go on until a piece of work has ended. */
  async run<Result>(work: Promise<Result>): Promise<Result> {
    let isDone = false;
    const end = () => {
      isDone = true;
    };
    work.then(end, end);
    for (;;) {
      do
        await new Promise((resolve) => {
          setImmediate(resolve);
        });
      while (this.underWay > 0);
      if (isDone) return work;
      const next = this.sleepers.shift();
      if (!next) throw new Error('Nothing is under way any more, and the work has not ended.');
      this.time = Math.max(this.time, next.until);
      next.wake();
    }
  }
}

/** Something to wait for. */
function gate<Value = void>() {
  let open: (value: Value) => void = () => undefined;
  const opened = new Promise<Value>((resolve) => {
    open = resolve;
  });
  return { open, opened };
}

/** A presenter that never oversleeps. */
export function virtualPresenter(clock: VirtualClock): OpenPresenter {
  return ({ slotCount, slotUs, onPassed }) => {
    const offered = new Set<number>();
    const [start, stopped] = [gate<number>(), gate()];
    let isStopped = false;
    let came = gate();
    const pass = async (startUs: number) => {
      for (let slot = 0; slot < slotCount; slot++) {
        const due = startUs + slot * slotUs;
        await clock.until(due);
        const deadline = clock.until(due + slotUs);
        for (let isOver = false; !offered.has(slot) && !isOver && !isStopped;) {
          came = gate();
          isOver = await Promise.race([
            deadline.then(() => true),
            came.opened.then(() => false),
            stopped.opened.then(() => true),
          ]);
        }
        if (isStopped) return;
        const isShown = offered.has(slot) && clock.now() < due + slotUs;
        onPassed({ slot, presentedAt: isShown ? clock.now() - startUs : Number.NaN, wokeAt: due - startUs });
      }
    };
    return {
      up: Promise.resolve(),
      done: Promise.race([stopped.opened, start.opened.then(pass)]),
      begin: start.open,
      offer: (slot) => {
        offered.add(slot);
        came.open();
      },
      stop: () => {
        isStopped = true;
        stopped.open();
      },
      end: () => Promise.resolve(),
    };
  };
}
