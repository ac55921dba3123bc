import fc from 'fast-check';
import { simulateTask, taskStages, type StageWork, type TaskStage, type TaskWork } from './pipeline';

const frames = 50;
const rooms = { read: 4, decode: 4, process: 4, encode: 4 };

/** @param each µs a frame and cores, by stage; what is not named takes nothing */
function work(
  each: Partial<Record<TaskStage, readonly [us: number, cores: number]>>,
  cores = 8,
  count = frames,
): TaskWork {
  const stages = Object.fromEntries(
    taskStages.map((stage): [TaskStage, StageWork] => {
      const [us, wanted] = each[stage] ?? [0, 0];
      return [stage, { soloUs: new Float64Array(count).fill(us), cores: wanted }];
    }),
  ) as TaskWork['stages'];
  return { stages, rooms, cores };
}

test('one stage takes what its frames take; two at once take the slower one, and the first frame of the other', () => {
  expect(simulateTask(work({ encode: [20, 1] }))).toBeCloseTo(frames * 20);
  expect(simulateTask(work({ decode: [10, 1], encode: [20, 1] }))).toBeCloseTo(10 + frames * 20);
  expect(simulateTask(work({ decode: [20, 1], encode: [10, 1] }))).toBeCloseTo(frames * 20 + 10);
  expect(simulateTask(work({}))).toBe(0);
});

test('stages that share a core take turns on it: one ends with the other', () => {
  expect(simulateTask(work({ decode: [10, 1], encode: [10, 1] }, 1))).toBeCloseTo(frames * 20);
  // A stage that wants less than its even share gets all of it: only the other is slowed.
  const waiting = work({ read: [10, 0.1], encode: [10, 1] }, 1);
  expect(simulateTask(waiting)).toBeCloseTo(10 + frames * 10 + 0.1 * (frames - 1) * 10);
  // Time that is no processor time is not shared.
  expect(simulateTask(work({ read: [30, 0], encode: [10, 1] }, 0.5))).toBeCloseTo(frames * 30 + 20);
});

test('a full room holds the stage before: work that comes in lumps runs over', () => {
  const lumpy = work({ decode: [10, 1], encode: [10, 1] });
  const soloUs = Float64Array.from({ length: frames }, (_, at) => (at % 10 === 0 ? 100 : 0));
  const narrow = {
    ...lumpy,
    rooms: { read: 1, decode: 1, process: 1, encode: 1 },
    stages: { ...lumpy.stages, decode: { soloUs, cores: 1 } },
  };
  const wide = { ...narrow, rooms: { ...rooms, decode: 20 } };
  expect(simulateTask(narrow)).toBeGreaterThan(simulateTask(wide) + 100);
  expect(simulateTask(wide)).toBeCloseTo(100 + frames * 10);
});

test('property: no task is shorter than its longest stage or its processor time over the cores, or longer than one stage after the other', () => {
  const stage = fc.tuple(fc.integer({ min: 0, max: 100 }), fc.double({ min: 0, max: 2, noNaN: true }));
  fc.assert(
    fc.property(
      fc.tuple(stage, stage, stage, stage, stage),
      fc.double({ min: 2, max: 8, noNaN: true }),
      fc.integer({ min: 1, max: 30 }),
      (each, cores, count) => {
        const named = Object.fromEntries(taskStages.map((name, at) => [name, each[at]!]));
        const took = simulateTask(work(named, cores, count));
        const solo = each.map(([us]) => us * count);
        const coreUs = each.reduce((sum, [us, wanted]) => sum + us * wanted * count, 0);
        expect(took).toBeGreaterThanOrEqual(Math.max(...solo, coreUs / cores) - 1e-3);
        expect(took).toBeLessThanOrEqual(solo.reduce((sum, us) => sum + us, 0) + 1e-3);
      },
    ),
  );
});
