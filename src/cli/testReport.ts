/** What became of one test. One that did not run is told apart: nobody may take it for one that passed. */
export interface TestOutcome {
  readonly name: string;
  /** The file it stands in, or the tool that is a check by itself. */
  readonly place: string;
  readonly seconds: number;
  readonly outcome: 'passed' | 'failed' | 'did not run';
}

/** The part of Jest's report (`--json`) that is read here. */
export interface JestReport {
  readonly testResults: readonly {
    readonly name: string;
    readonly message: string;
    readonly assertionResults: readonly {
      readonly fullName: string;
      readonly status: string;
      readonly duration?: number | null;
    }[];
  }[];
}

/** The part of Playwright's report (`json`) that is read here. */
export interface PlaywrightReport {
  readonly suites: readonly PlaywrightSuite[];
  readonly errors: readonly unknown[];
}
interface PlaywrightSuite {
  readonly specs?: readonly {
    readonly title: string;
    readonly file: string;
    readonly tests: readonly {
      readonly status: string;
      readonly results: readonly { readonly status?: string; readonly duration: number }[];
    }[];
  }[];
  readonly suites?: readonly PlaywrightSuite[];
}

/** The tests of a run of Jest. A file that could not be run is one that failed. */
export function jestOutcomes({ testResults }: JestReport, root: string): TestOutcome[] {
  return testResults.flatMap(({ name, message, assertionResults }) => {
    const place = name.startsWith(root) ? name.slice(root.length) : name;
    if (assertionResults.length === 0)
      return [
        {
          name: message.trim().split('\n')[0] ?? 'it has no test',
          place,
          seconds: 0,
          outcome: 'failed' as const,
        },
      ];
    return assertionResults.map(({ fullName, status, duration }) => ({
      name: fullName,
      place,
      seconds: (duration ?? 0) / 1000,
      outcome: status === 'passed' || status === 'failed' ? status : ('did not run' as const),
    }));
  });
}

/** The tests of a run of Playwright. One that passed only when it was tried again has failed; what went wrong beside the tests counts as one. */
export function playwrightOutcomes({ suites, errors }: PlaywrightReport): TestOutcome[] {
  const tests = suites.flatMap(function inside({
    specs = [],
    suites: inner = [],
  }: PlaywrightSuite): TestOutcome[] {
    const own = specs.flatMap(({ title, file, tests: runs }) =>
      runs.map(({ status, results }) => ({
        name: title,
        place: `tests/${file}`,
        seconds: results.reduce((sum, { duration }) => sum + duration, 0) / 1000,
        outcome:
          status === 'expected' && results.length > 0
            ? ('passed' as const)
            : results.every((result) => result.status === undefined || result.status === 'skipped')
              ? ('did not run' as const)
              : ('failed' as const),
      })),
    );
    return [...own, ...inner.flatMap(inside)];
  });
  return errors.length > 0 && tests.every(({ outcome }) => outcome === 'passed')
    ? [
        ...tests,
        { name: 'something went wrong beside the tests', place: 'tests', seconds: 0, outcome: 'failed' },
      ]
    : tests;
}

/** What a run comes to if its tool says otherwise than its report, or left none. */
export function judged(
  outcomes: readonly TestOutcome[],
  tool: string,
  succeeded: boolean,
): readonly TestOutcome[] {
  if (outcomes.length === 0)
    return [{ name: 'it left no report', place: tool, seconds: 0, outcome: 'failed' }];
  if (succeeded || outcomes.some(({ outcome }) => outcome !== 'passed')) return outcomes;
  return [
    ...outcomes,
    { name: 'it failed without a failed test', place: tool, seconds: 0, outcome: 'failed' },
  ];
}

/** The end of a run: what failed or did not run by name, the slowest tests, and a last line that counts all. */
export function closingWords(outcomes: readonly TestOutcome[], slowestCount = 10): string {
  const of = (wanted: TestOutcome['outcome']) => outcomes.filter(({ outcome }) => outcome === wanted);
  const named = (tests: readonly TestOutcome[], title: string) =>
    tests.length > 0 ? [title, ...tests.map(({ place, name }) => `  ${place}: ${name}`), ''] : [];
  const [passed, failed, notRun] = [of('passed'), of('failed'), of('did not run')];
  const slowest = outcomes.toSorted((a, b) => b.seconds - a.seconds).slice(0, slowestCount);
  return [
    'The slowest tests:',
    ...slowest.map(({ seconds, place, name }) => `  ${seconds.toFixed(1).padStart(6)} s  ${place}: ${name}`),
    '',
    ...named(failed, 'Failed:'),
    ...named(notRun, 'Did not run:'),
    `${passed.length} passed, ${failed.length} failed${notRun.length > 0 ? `, ${notRun.length} skipped` : ''}`,
  ].join('\n');
}

/** Whether a run is as it must be: something ran, nothing failed, and nothing was left out. */
export function isGreen(outcomes: readonly TestOutcome[]): boolean {
  return outcomes.length > 0 && outcomes.every(({ outcome }) => outcome === 'passed');
}
