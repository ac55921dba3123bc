import { summariseScrub } from '@/core/scrub/analyse';
import { ScrubRun } from './scrubRun';
import type { FetchedSlot, SlotAccess } from '../timeline/slotAccess';
import { VirtualClock } from '../testing/virtualClock';

/** Pictures that take known times, ms, in each stage; a request that is overtaken ends at the boundary of one. */
function access(
  clock: VirtualClock,
  { readMs, decodeMs, processMs }: { readMs: number; decodeMs: number; processMs: number },
): Pick<SlotAccess, 'fetch' | 'release'> & { held: number } {
  const made = {
    held: 0,
    fetch: async (
      slot: number,
      isStale: () => boolean = () => false,
      onStage: (stage: 'read' | 'decode' | 'process') => void = () => undefined,
    ) => {
      onStage('read');
      await clock.sleep((readMs + decodeMs) * 1000);
      onStage('decode');
      if (isStale()) return null;
      await clock.sleep(processMs * 1000);
      made.held++;
      return {
        picture: {},
        isRefused: slot === 13,
        wanted: slot,
        proved: slot,
        readUs: readMs * 1000,
        decodeUs: decodeMs * 1000,
        processUs: processMs * 1000,
        bytes: 0,
        packets: 1,
        fromKey: 0,
      } as FetchedSlot;
    },
    release: () => {
      made.held--;
    },
  };
  return made;
}

async function scrub(
  everyMs: number,
  targets: readonly number[],
  stages = { readMs: 10, decodeMs: 20, processMs: 30 },
) {
  const clock = new VirtualClock();
  const made = access(clock, stages);
  const run = new ScrubRun(
    made,
    { kind: 'recorded', slots: 100, timesMs: targets.map((_, at) => at * everyMs), targets: [...targets] },
    () => undefined,
    clock,
  );
  const requests = await clock.run(run.run());
  expect(made.held).toBe(0);
  return { requests, summary: summariseScrub(requests) };
}

test('a hand slower than its pictures sees each after what its stages take, no more and no less', async () => {
  const { requests, summary } = await scrub(61, [0, 50, 1, 99]);
  expect(requests.map(({ shownMs, atMs }) => (shownMs ?? NaN) - atMs)).toEqual([60, 60, 60, 60]);
  expect(summary).toMatchObject({
    shown: 4,
    superseded: 0,
    wrong: 0,
    latencyMs: { p50: 60, p95: 60, max: 60 },
    partsMs: { waiting: 0, read: 10, decode: 20, process: 30 },
  });
});

test('what is overtaken ends at the boundary of its stage, and the newest waits for that', async () => {
  // Asked at 0, 19, 38 and 57: the first is stale after decoding at 30; the second, taken up there, at 60, when the fourth is the newest.
  const { requests } = await scrub(19, [0, 1, 2, 3]);
  expect(requests.map(({ end, stoppedAfter }) => [end, stoppedAfter])).toEqual([
    ['superseded', 'decode'],
    ['superseded', 'decode'],
    ['superseded', 'waiting'],
    ['shown', null],
  ]);
  expect(requests[3]?.shownMs).toBe(120);
});

test('a picture that is overtaken while it is processed is not shown', async () => {
  const { requests } = await scrub(40, [5, 6]);
  expect(requests.map(({ end, stoppedAfter, shownMs }) => [end, stoppedAfter, shownMs])).toEqual([
    ['superseded', 'process', null],
    ['shown', null, 120],
  ]);
});

test('a position without a picture is told as refused, at its cost', async () => {
  const { requests, summary } = await scrub(100, [12, 13, 14]);
  expect(requests.map(({ end, processMs }) => [end, processMs])).toEqual([
    ['shown', 30],
    ['refused', 30],
    ['shown', 30],
  ]);
  expect(summary).toMatchObject({ shown: 2, refused: 1, superseded: 0 });
});
