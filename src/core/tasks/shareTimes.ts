import { taskStages, type TaskStage } from './pipeline';

interface Times {
  readonly coreUs: number;
  readonly waitUs: number;
}
/** Processor time so far: of threads that belong to a stage, of the main one, and of those that serve calls of any stage. */
type Owned = Readonly<Record<'decode' | 'process' | 'encode' | 'main' | 'pool', Times>>;

/**
 * Shares the processor time of a stretch among the stages. Threads of codecs and graphs are their stage's; the main thread notes
 * and hands on pictures, which is processing. Of threads that serve calls, processing gets what its calls took, because they
 * compute all along; the rest goes by the time of the other stages' calls.
 * @param busyUs time in which each stage had a frame in hand
 */
export function shareTimes(
  now: Owned,
  before: Owned,
  busyUs: Readonly<Record<TaskStage, number>>,
): Record<TaskStage, Times> {
  const since = (owner: keyof Owned): Times => ({
    coreUs: Math.max(0, now[owner].coreUs - before[owner].coreUs),
    waitUs: Math.max(0, now[owner].waitUs - before[owner].waitUs),
  });
  const pool = since('pool');
  const ready = pool.coreUs + pool.waitUs;
  const processing = Math.min(ready, busyUs.process);
  const others = taskStages.filter((stage) => stage !== 'process');
  const othersBusy = others.reduce((sum, stage) => sum + busyUs[stage], 0);
  const poolShare = (stage: TaskStage) => {
    if (ready === 0) return 0;
    if (stage === 'process') return othersBusy > 0 ? processing / ready : 1;
    return othersBusy > 0 ? ((ready - processing) / ready) * (busyUs[stage] / othersBusy) : 0;
  };
  const own: Readonly<Partial<Record<TaskStage, readonly Times[]>>> = {
    decode: [since('decode')],
    process: [since('process'), since('main')],
    encode: [since('encode')],
  };
  return Object.fromEntries(
    taskStages.map((stage) => {
      const parts = own[stage] ?? [];
      const share = poolShare(stage);
      const sum = (of: (times: Times) => number) =>
        parts.reduce((total, one) => total + of(one), share * of(pool));
      return [stage, { coreUs: sum(({ coreUs }) => coreUs), waitUs: sum(({ waitUs }) => waitUs) }];
    }),
  ) as Record<TaskStage, Times>;
}
