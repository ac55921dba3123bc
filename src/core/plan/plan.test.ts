import fc from 'fast-check';
import { expandMatrix, orderSteps, type MatrixChoice } from './matrix';
import { runsToMakeUp, type EndedStep } from './makeUp';
import { planMsLeft, type TimedStep } from './timeLeft';

const choice: MatrixChoice = {
  subjects: [
    { kind: 'clip', id: 'a' },
    { kind: 'timeline', id: 't' },
  ],
  volumeIds: ['v1', 'v2'],
  forms: ['originals', 'proxies'],
  scales: ['full', 'half'],
  tests: ['playback'],
};

describe('a matrix', () => {
  test('holds every condition once: subjects by forms by volumes by scales', () => {
    const cells = expandMatrix(choice);
    expect(cells).toHaveLength(2 * 2 * 2 * 2);
    expect(new Set(cells.map((cell) => JSON.stringify(cell))).size).toBe(16);
  });

  test('leaves out what a test does not depend on', () => {
    expect(expandMatrix({ ...choice, tests: ['decode-rate'] })).toEqual([
      {
        test: 'decode-rate',
        subject: { kind: 'clip', id: 'a' },
        volumeId: null,
        form: 'originals',
        scale: null,
      },
      {
        test: 'decode-rate',
        subject: { kind: 'clip', id: 'a' },
        volumeId: null,
        form: 'proxies',
        scale: null,
      },
    ]);
    expect(
      expandMatrix({ ...choice, tests: ['throughput'] }).map(({ subject, volumeId }) => [subject, volumeId]),
    ).toEqual([
      [null, 'v1'],
      [null, 'v2'],
    ]);
    expect(expandMatrix({ ...choice, tests: ['streams-carried'] })).toHaveLength(1 * 2 * 2);
  });

  test('takes each device for tests that depend on it; software goes without a name, as before there was a choice', () => {
    const devices = (test: MatrixChoice['tests'][number], deviceIds?: string[]) =>
      expandMatrix({
        ...choice,
        volumeIds: [],
        forms: ['originals'],
        scales: ['full'],
        tests: [test],
        ...(deviceIds ? { deviceIds } : {}),
      }).map(({ subject, deviceId }) => `${subject?.id} ${deviceId ?? '-'}`);
    expect(devices('playback', ['software', 'd1'])).toEqual(['a -', 'a d1', 't -', 't d1']);
    expect(devices('scrub', ['d1'])).toEqual(['a d1', 't d1']);
    expect(devices('export', ['software', 'd1'])).toEqual(['a -', 't -']);
    expect(devices('playback')).toEqual(['a -', 't -']);
  });

  test('reads past the system’s cache and through it where a test depends on it; past it goes without a name', () => {
    const caches = (test: MatrixChoice['tests'][number]) =>
      expandMatrix({
        ...choice,
        volumeIds: ['v1'],
        forms: ['originals'],
        scales: ['full'],
        tests: [test],
        caches: ['past', 'through'],
      }).map(({ subject, cache }) => `${subject?.id ?? '-'} ${cache ?? '-'}`);
    expect(caches('playback')).toEqual(['a -', 'a through', 't -', 't through']);
    expect(caches('throughput')).toEqual(['- -', '- through']);
    expect(caches('decode-rate')).toEqual(['a -']);
  });

  test('reads from where clips lie when no volume is chosen, and has no throughput then', () => {
    expect(
      expandMatrix({ ...choice, volumeIds: [], tests: ['playback', 'throughput'] }).every(
        ({ volumeId, test }) => volumeId === null && test === 'playback',
      ),
    ).toBe(true);
  });
});

describe('the order of runs', () => {
  const shape = {
    cells: fc.integer({ min: 1, max: 12 }),
    repeats: fc.integer({ min: 1, max: 9 }),
    order: fc.constantFrom('interleaved' as const, 'random' as const),
    seed: fc.nat(),
  };

  test('takes every cell once in each round, whatever the order', () => {
    fc.assert(
      fc.property(fc.record(shape), ({ cells, repeats, order, seed }) => {
        const steps = orderSteps(cells, repeats, order, seed);
        for (let repeat = 0; repeat < repeats; repeat++) {
          const round = steps.slice(repeat * cells, (repeat + 1) * cells);
          expect(round.every((step) => step.repeat === repeat)).toBe(true);
          expect(round.map(({ cell }) => cell).sort((a, b) => a - b)).toEqual(
            Array.from({ length: cells }, (_, cell) => cell),
          );
        }
      }),
    );
  });

  test('interleaved goes back and forth, so that a steady drift favours no cell', () => {
    expect(orderSteps(3, 2, 'interleaved', 1).map(({ cell }) => cell)).toEqual([0, 1, 2, 2, 1, 0]);
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 8 }), fc.integer({ min: 1, max: 4 }), (cells, pairs) => {
        const steps = orderSteps(cells, pairs * 2, 'interleaved', 1);
        const positions = Array.from({ length: cells }, () => 0);
        steps.forEach(({ cell }, at) => {
          positions[cell]! += at;
        });
        expect(new Set(positions).size).toBe(1);
      }),
    );
  });

  test('random is the same for the same seed and another for another', () => {
    expect(orderSteps(8, 3, 'random', 5)).toEqual(orderSteps(8, 3, 'random', 5));
    expect(orderSteps(8, 3, 'random', 5)).not.toEqual(orderSteps(8, 3, 'random', 6));
  });
});

describe('the time a plan still needs', () => {
  const step = (
    status: TimedStep['status'],
    expectedMs: number,
    tookMs: number | null = null,
    runningMs: number | null = null,
  ): TimedStep => ({ status, expectedMs, tookMs, runningMs });

  test('is what waits, corrected by what ended took over what was expected', () => {
    expect(planMsLeft([step('waiting', 1_000), step('waiting', 2_000)])).toBe(3_000);
    expect(planMsLeft([step('done', 1_000, 1_500), step('waiting', 2_000)])).toBe(3_000);
    expect(
      planMsLeft([step('done', 1_000, 1_500), step('running', 2_000, null, 1_000), step('waiting', 2_000)]),
    ).toBe(2_000 + 3_000);
  });

  test('one odd run does not make it jump, and ended, failed and skipped runs need nothing more', () => {
    const steady = [1, 2, 3, 4].map(() => step('done', 1_000, 1_100));
    const calm = planMsLeft([...steady, step('waiting', 10_000)]);
    expect(planMsLeft([...steady, step('done', 1_000, 60_000), step('waiting', 10_000)])).toBeCloseTo(
      calm,
      6,
    );
    expect(planMsLeft([step('failed', 1_000, 90), step('skipped', 5_000), step('cancelled', 5_000)])).toBe(0);
  });
});

describe('making up', () => {
  const steps = (...words: string[]): EndedStep[] =>
    words.map((word) => {
      const inDoubt = word.endsWith('in-doubt');
      const excluded = word.endsWith('excluded');
      return {
        cell: word.startsWith('b:') ? 1 : 0,
        inDoubt,
        excluded,
        status: inDoubt || excluded ? 'done' : (word.replace('b:', '') as EndedStep['status']),
      };
    });

  test('adds a run for each that is missing; a result in doubt is not missing', () => {
    expect(runsToMakeUp(steps('skipped', 'in-doubt', 'in-doubt'), 3, 'missing')).toEqual([0]);
    expect(runsToMakeUp(steps('skipped', 'in-doubt', 'in-doubt'), 3, 'in-doubt')).toEqual([0, 0]);
    expect(runsToMakeUp(steps('done', 'excluded'), 2, 'missing')).toEqual([0]);
    expect(runsToMakeUp(steps('b:failed', 'done', 'b:cancelled', 'done'), 2, 'missing')).toEqual([1, 1]);
  });

  test('adds nothing for what has been made up for, or waits to be', () => {
    expect(runsToMakeUp(steps('failed', 'done', 'done'), 2, 'missing')).toEqual([]);
    expect(runsToMakeUp(steps('failed', 'done', 'waiting'), 2, 'missing')).toEqual([]);
    expect(runsToMakeUp(steps('in-doubt', 'done', 'running'), 2, 'in-doubt')).toEqual([]);
    expect(runsToMakeUp(steps('in-doubt', 'done', 'in-doubt'), 2, 'in-doubt')).toEqual([0]);
  });

  test('a cell is given no more runs by itself than it may have', () => {
    expect(runsToMakeUp(steps('in-doubt', 'in-doubt', 'in-doubt'), 3, 'in-doubt', 2)).toEqual([0, 0]);
    expect(runsToMakeUp(steps('in-doubt', 'in-doubt', 'in-doubt', 'in-doubt'), 3, 'in-doubt', 2)).toEqual([
      0,
    ]);
    expect(
      runsToMakeUp(
        steps('in-doubt', 'in-doubt', 'in-doubt', 'in-doubt', 'in-doubt', 'b:in-doubt'),
        3,
        'in-doubt',
        2,
      ),
    ).toEqual([1]);
    expect(runsToMakeUp(steps('in-doubt'), 3, 'in-doubt', 0)).toEqual([]);
  });

  test('never adds more than the cell lacks, and none where all serve', () => {
    const word = fc.constantFrom(
      'waiting',
      'running',
      'done',
      'failed',
      'cancelled',
      'skipped',
      'in-doubt',
      'excluded',
      'b:done',
      'b:failed',
      'b:in-doubt',
    );
    fc.assert(
      fc.property(fc.array(word, { maxLength: 20 }), fc.integer({ min: 1, max: 6 }), (words, repeats) => {
        const own = steps(...words);
        for (const what of ['in-doubt', 'missing'] as const) {
          const added = runsToMakeUp(own, repeats, what);
          for (const cell of [0, 1]) {
            const here = own.filter((step) => step.cell === cell);
            const good = here.filter(
              (step) =>
                step.status === 'waiting' ||
                step.status === 'running' ||
                (step.status === 'done' && !step.inDoubt && !step.excluded),
            ).length;
            const more = added.filter((one) => one === cell).length;
            expect(good + more).toBeLessThanOrEqual(Math.max(good, repeats));
          }
        }
      }),
    );
  });
});
