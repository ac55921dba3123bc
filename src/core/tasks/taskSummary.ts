import type { TaskRecord, TaskSummary } from '../kinds/shared/task';
import { quantiles } from '../stats/quantiles';
import { toNumber, type Rational } from '../time/rational';
import { heldBack, replayedWork } from './heldBack';
import { taskStages } from './pipeline';
import { ratesOf, sum } from './windows';

/**
 * What a task came to, of what was saved of it: of one that ended early, up to there.
 * @param total frames that were to be made
 * @returns null where no frame had begun its way
 */
export function summariseTask(
  { windows, facts, made, proof, likeness, found }: TaskRecord,
  { total, rate }: { readonly total: number; readonly rate: Rational },
): TaskSummary | null {
  const workedUs = windows.endUs.at(-1) ?? 0;
  const frames = made?.frames ?? windows.stages.write.frames.at(-1) ?? 0;
  if (workedUs === 0 || frames === 0) return null;
  const elapsedUs = made?.elapsedUs ?? workedUs;
  const coreUs = sum(taskStages.flatMap((stage) => windows.stages[stage].coreUs));
  const work = facts && replayedWork(windows, facts, workedUs);
  return {
    frames,
    total,
    mediaSeconds: frames / toNumber(rate),
    elapsedMs: elapsedUs / 1000,
    openingMs: made && made.openingUs / 1000,
    startUpMs: made && made.startUpUs / 1000,
    provingMs: proof && made ? made.provingUs / 1000 : null,
    framesPerSecond: steadyRate(windows),
    cores: coreUs / workedUs,
    bytesRead: sum(windows.bytesRead),
    bytesWritten: sum(windows.bytesWritten),
    outputBytes: made?.outputBytes ?? null,
    held: work && heldBack(work, workedUs),
    proved: proof && proof.problems.length === 0,
    ssim: likeness?.ssim ?? null,
    keptAs: made?.keptAs ?? null,
    ...(found ? { found } : {}),
  };
}

/** Frames a second in windows of steady work: behind the start-up and before the last frames are drained; null where there are too few. */
function steadyRate(windows: TaskRecord['windows']): TaskSummary['framesPerSecond'] {
  const rates = ratesOf(windows).map(({ framesPerSecond }) => framesPerSecond);
  const first = rates.findIndex((rate) => rate > 0) + 1;
  const last = rates.findLastIndex((rate) => rate > 0);
  const steady = rates.slice(first, last);
  if (first === 0 || steady.length < 2) return null;
  const [p5 = 0, p50 = 0, p95 = 0] = quantiles(steady, [0.05, 0.5, 0.95]);
  return { p5, p50, p95 };
}

/** "1.80 times its length": how long it took for what it made. */
export function timesLength({
  elapsedMs,
  mediaSeconds,
}: Pick<TaskSummary, 'elapsedMs' | 'mediaSeconds'>): number | null {
  return mediaSeconds > 0 ? elapsedMs / 1000 / mediaSeconds : null;
}
