import {
  closingWords,
  isGreen,
  jestOutcomes,
  judged,
  playwrightOutcomes,
  type TestOutcome,
} from './testReport';

const outcome = (name: string, result: TestOutcome['outcome'], seconds = 0): TestOutcome => ({
  name,
  place: 'tests/a.spec.ts',
  seconds,
  outcome: result,
});
const passing = [outcome('one', 'passed', 2), outcome('two', 'passed', 11.26)];

test('a run of Jest is told test by test; a file that cannot be run has failed, a test left out did not run', () => {
  const found = jestOutcomes(
    {
      testResults: [
        {
          name: '/p/src/a.test.ts',
          message: '',
          assertionResults: [
            { fullName: 'adds', status: 'passed', duration: 1_500 },
            { fullName: 'divides', status: 'failed' },
            { fullName: 'later', status: 'pending', duration: null },
            { fullName: 'some day', status: 'todo' },
          ],
        },
        { name: '/p/src/b.test.ts', message: '\n  Cannot find module x\n  at y', assertionResults: [] },
      ],
    },
    '/p/',
  );
  expect(found.map(({ place, name, seconds, outcome: result }) => [place, name, seconds, result])).toEqual([
    ['src/a.test.ts', 'adds', 1.5, 'passed'],
    ['src/a.test.ts', 'divides', 0, 'failed'],
    ['src/a.test.ts', 'later', 0, 'did not run'],
    ['src/a.test.ts', 'some day', 0, 'did not run'],
    ['src/b.test.ts', 'Cannot find module x', 0, 'failed'],
  ]);
});

test('a run of Playwright is told test by test, however deep; what passed only when tried again has failed', () => {
  const spec = (title: string, status: string, ...results: { status: string; duration: number }[]) => ({
    title,
    file: 'keys.spec.ts',
    tests: [{ status, results }],
  });
  const suites = [
    {
      specs: [spec('acts', 'expected', { status: 'passed', duration: 2_000 })],
      suites: [
        {
          specs: [
            spec('breaks', 'unexpected', { status: 'timedOut', duration: 500 }),
            spec('wavers', 'flaky', { status: 'failed', duration: 1 }, { status: 'passed', duration: 1 }),
            spec('waits', 'skipped', { status: 'skipped', duration: 0 }),
            spec('was never reached', 'skipped'),
          ],
        },
      ],
    },
  ];
  expect(
    playwrightOutcomes({ suites, errors: [] }).map(({ place, name, seconds, outcome: result }) => [
      place,
      name,
      seconds,
      result,
    ]),
  ).toEqual([
    ['tests/keys.spec.ts', 'acts', 2, 'passed'],
    ['tests/keys.spec.ts', 'breaks', 0.5, 'failed'],
    ['tests/keys.spec.ts', 'wavers', 0.002, 'failed'],
    ['tests/keys.spec.ts', 'waits', 0, 'did not run'],
    ['tests/keys.spec.ts', 'was never reached', 0, 'did not run'],
  ]);
  expect(
    playwrightOutcomes({ suites: suites.slice(0, 1).map(({ specs }) => ({ specs })), errors: [{}] }).map(
      ({ outcome: result }) => result,
    ),
  ).toEqual(['passed', 'failed']);
});

test('a tool that fails without a word, or leaves nothing, has failed', () => {
  expect(judged([], 'lint', true)).toMatchObject([{ place: 'lint', outcome: 'failed' }]);
  expect(judged(passing, 'jest', false).map(({ outcome: result }) => result)).toEqual([
    'passed',
    'passed',
    'failed',
  ]);
  expect(judged(passing, 'jest', true)).toBe(passing);
  expect(judged([outcome('x', 'did not run')], 'jest', false)).toHaveLength(1);
});

test('a run ends with its slowest tests, what failed or did not run by name, and a line that counts all', () => {
  expect(closingWords(passing, 1)).toBe(
    'The slowest tests:\n    11.3 s  tests/a.spec.ts: two\n\n2 passed, 0 failed',
  );
  const all = [...passing, outcome('three', 'failed'), outcome('four', 'did not run')];
  expect(closingWords(all).split('\n\n').slice(1)).toEqual([
    'Failed:\n  tests/a.spec.ts: three',
    'Did not run:\n  tests/a.spec.ts: four',
    '2 passed, 1 failed, 1 skipped',
  ]);
  expect([
    isGreen(passing),
    isGreen(all),
    isGreen([...passing, outcome('four', 'did not run')]),
    isGreen([]),
  ]).toEqual([true, false, false, false]);
});
