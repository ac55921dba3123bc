import { heldBackSentence } from '../sentences/tasks';
import { heldBack, replayedWork } from './heldBack';
import { simulateTask, taskStages, type TaskStage } from './pipeline';
import { ratesOf, workOf, type StageWindows, type TaskFacts, type TaskWindows } from './windows';

const frames = 400;
const windowCount = 20;
const facts: TaskFacts = {
  rooms: { read: 12, decode: 4, process: 4, encode: 32 },
  cores: 4,
  threads: { read: 1, decode: 4, process: 1, encode: 4, write: 1 },
};

/** Windows of a task of `seconds` with even work. @param each share of the time in which a stage was at work, cores it had, cores it waited for */
function evenly(
  seconds: number,
  each: Partial<Record<TaskStage, readonly [busy: number, cores: number, waited?: number]>>,
  others = 0,
): TaskWindows {
  const us = (seconds * 1e6) / windowCount;
  const column = (value: number) => Array.from({ length: windowCount }, () => value);
  const stages = Object.fromEntries(
    taskStages.map((stage): [TaskStage, StageWindows] => {
      const [busy, cores, waited = 0] = each[stage] ?? [0, 0];
      return [
        stage,
        {
          frames: Array.from({ length: windowCount }, (_, at) => ((at + 1) * frames) / windowCount),
          busyUs: column(us * busy),
          coreUs: column(us * cores),
          waitUs: column(us * waited),
        },
      ];
    }),
  ) as TaskWindows['stages'];
  return {
    endUs: Array.from({ length: windowCount }, (_, at) => (at + 1) * us),
    othersCores: column(others),
    bytesRead: column(0),
    bytesWritten: column(0),
    stages,
  };
}

const judged = (windows: TaskWindows) => {
  const measuredUs = windows.endUs.at(-1)!;
  return heldBack(replayedWork(windows, facts, measuredUs)!, measuredUs);
};

test('an encoder that is at work all the time held the task back, and what the next stage takes is what stays', () => {
  const held = judged(evenly(10, { decode: [0.5, 0.5], encode: [1, 1] }));
  expect(held).toMatchObject({ stage: 'encode', alike: [] });
  expect(held.agreement).toBeCloseTo(1, 1);
  expect(held.free.encode).toBeCloseTo(0.5, 1);
  expect(held.twice.encode).toBeCloseTo(0.5, 1);
  expect(held.free.decode).toBeLessThan(0.02);
  // Twice is all that helps: more than that leaves it to the decoder.
  expect(held.least).toMatchObject({ factor: 2 });
  expect(heldBackSentence({ ...held, twice: { ...held.twice, encode: 0.41 } })).toBe(
    'Encoding held it back: an encoder twice as fast would have saved 41\u202f%.',
  );
});

test('where the cores are short, a stage gives back what it took of them', () => {
  // All four cores in use: encoding takes three of them, decoding one.
  const held = judged(evenly(10, { decode: [0.9, 1, 2], encode: [1, 3, 3] }));
  expect(held.stage).toBe('encode');
  expect(held.free.encode).toBeGreaterThan(0.6);
  expect(held.free.decode).toBeCloseTo(0.25, 1);
});

test('waiting for a device is no work for cores, and waits of threads in the background hold nobody up', () => {
  const held = judged(evenly(10, { read: [1, 0.05, 0.4], decode: [0.3, 0.4, 0.6], encode: [0.4, 0.6, 0.8] }));
  expect(held.stage).toBe('read');
  expect(held.agreement).toBeCloseTo(1, 1);
  expect(held.free.read).toBeGreaterThan(0.5);
});

test('cores that others took are not there for the task', () => {
  const alone = workOf(evenly(10, { encode: [1, 4, 2] }), facts, 1)!;
  const beside = workOf(evenly(10, { encode: [1, 2, 4] }, 2), facts, 1)!;
  expect([alone.cores, beside.cores]).toEqual([4, 2]);
});

test('stages that weigh alike are named together; a task that nothing holds names none', () => {
  const held = judged(evenly(10, { decode: [1, 2, 2], encode: [1, 2, 2] }));
  expect([held.stage, ...held.alike].sort()).toEqual(['decode', 'encode']);
  expect(heldBackSentence(held)).toMatch(/ held it back, (decoding|encoding) nearly as much: /);
  const free = { read: 0, decode: 0, process: 0, encode: 0, write: 0 };
  expect(heldBackSentence({ stage: null, alike: [], twice: free })).toBe('No stage held it back by itself.');
});

test('a long task is replayed in larger pieces with nearly the same answer', () => {
  const windows = evenly(10, { decode: [0.6, 0.6], encode: [1, 1] });
  const long: TaskWindows = {
    ...windows,
    stages: Object.fromEntries(
      taskStages.map((stage) => [
        stage,
        { ...windows.stages[stage], frames: windows.stages[stage].frames.map((count) => count * 250) },
      ]),
    ) as unknown as TaskWindows['stages'],
  };
  const [held, of] = [judged(long), judged(windows)];
  expect(held.free.encode).toBeCloseTo(of.free.encode, 1);
  expect(simulateTask(replayedWork(long, facts, 10e6)!) / 10e6).toBeCloseTo(1, 1);
});

test('work of windows without a frame goes to the next frame; a task without any has none', () => {
  const windows = evenly(2, { encode: [1, 1] });
  const late: TaskWindows = {
    ...windows,
    stages: {
      ...windows.stages,
      encode: {
        ...windows.stages.encode,
        frames: windows.stages.encode.frames.map((_, at) => Math.max(0, at - 9) * 40),
      },
    },
  };
  const { soloUs } = workOf(late, facts, 1)!.stages.encode;
  expect(soloUs.reduce((sum, us) => sum + us, 0)).toBeCloseTo(2e6);
  expect(soloUs[0]).toBeGreaterThan(soloUs[frames - 1]!);
  const none = { ...windows.stages.write, frames: windows.stages.write.frames.map(() => 0) };
  expect(workOf({ ...windows, stages: { ...windows.stages, write: none } }, facts, 1)).toBeNull();
});

test('rates are of frames that came through all stages', () => {
  const rates = ratesOf(evenly(10, { encode: [1, 1] }));
  expect(rates).toHaveLength(windowCount);
  expect(rates[3]!.framesPerSecond).toBeCloseTo(40);
  expect(rates.at(-1)!.atS).toBeCloseTo(10);
});
