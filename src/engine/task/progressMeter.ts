import type { TaskProgress } from '@/core/kinds/shared/task';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { monotonicUs } from '../clock';

/** How often it is told how far a task is, ms. */
export const reportMs = 250;
/** Stretch that a rate is told of: of a shorter one a slow encoder has too few frames, ms. */
const rateMs = 1_000;

/** How fast one phase of a task gets on, and when it is through. */
export class ProgressMeter {
  private readonly timeLeft = new TimeLeftEstimator();
  private last = { frames: 0, atUs: monotonicUs(), rate: 0 };

  /** @param frames done so far in this phase */
  at(
    frames: number,
    total: number,
  ): Pick<TaskProgress, 'frames' | 'total' | 'framesPerSecond' | 'msLeft' | 'spreadMs'> {
    const nowUs = monotonicUs();
    const spanUs = nowUs - this.last.atUs;
    if (spanUs >= rateMs * 1000) {
      this.timeLeft.observe(frames, nowUs / 1000);
      const rate = (Math.max(0, frames - this.last.frames) * 1e6) / spanUs;
      this.last = { frames, atUs: nowUs, rate };
    }
    return {
      frames,
      total,
      framesPerSecond: this.last.rate,
      msLeft: this.timeLeft.remainingMs(total),
      spreadMs: this.timeLeft.spreadMs(total),
    };
  }
}
