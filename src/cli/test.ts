import { spawn } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { migrateDatabase } from '@/db/migrate';
import { processorTimes, type ProcessorTimes } from '@/engine/rig';
import { buildApp } from './buildApp';
import { projectRoot } from './bundle';
import { CliError, home, paths, prepareHome } from './home';
import { startCluster } from './postgres';
import { makeTestClips } from './testClips';
import { emptyDatabase } from './testDatabases';
import {
  closingWords,
  isGreen,
  jestOutcomes,
  judged,
  playwrightOutcomes,
  type JestReport,
  type PlaywrightReport,
  type TestOutcome,
} from './testReport';

const tool = (...path: string[]) => join(projectRoot, 'node_modules', ...path);
const cores = 2;

/** Runs a Node.js tool with its output shown; this process goes on looking after what it has started. Resolves to whether it succeeded. */
async function runTool(
  name: string,
  args: readonly string[],
  environment: Record<string, string> = {},
): Promise<boolean> {
  const begun = Date.now();
  const coresBefore = processorTimes();
  process.stdout.write(`\n== ${name}\n`);
  const child = spawn(process.execPath, [...args], {
    cwd: projectRoot,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ...environment },
  });
  const status = await new Promise<number | null>((resolve) => {
    child.once('close', resolve);
  });
  process.stdout.write(
    `== ${name}: ${status === 0 ? 'passed' : 'FAILED'} in ${secondsSince(begun)} s, cores ${busySince(coresBefore)} % busy\n`,
  );
  return status === 0;
}

/** How busy the cores have been since, %: whether a run waits or works. */
function busySince(before: ProcessorTimes): string {
  const now = processorTimes();
  return (((now.busyMs - before.busyMs) / (now.totalMs - before.totalMs)) * 100).toFixed(0);
}

const secondsSince = (begunMs: number) => ((Date.now() - begunMs) / 1000).toFixed(0);

/** A tool that is one check by itself. Its time stands in its own line, not among those of tests. */
async function check(name: string, args: readonly string[]): Promise<readonly TestOutcome[]> {
  return [
    {
      name,
      place: basename(args[0] ?? name),
      seconds: 0,
      outcome: (await runTool(name, args)) ? 'passed' : 'failed',
    },
  ];
}

function readReport(file: string): unknown {
  return existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null;
}

/** Unit, engine and server tests; those of the server each have a database of their worker's own. */
async function jest(
  name: string,
  args: readonly string[],
  databaseUrl: string,
): Promise<readonly TestOutcome[]> {
  const report = join(home, `jest-${name.replaceAll(' ', '-')}.json`);
  rmSync(report, { force: true });
  const succeeded = await runTool(
    name,
    [tool('jest/bin/jest.js'), '--json', `--outputFile=${report}`, ...args],
    {
      NODE_OPTIONS: '--experimental-vm-modules --no-warnings',
      NAVVY_UNIT_DATABASE_URL: databaseUrl,
      SVT_LOG: '1',
    },
  );
  const found = readReport(report) as JestReport | null;
  return judged(found ? jestOutcomes(found, projectRoot) : [], name, succeeded);
}

/** The databases of the workers of `jest`, emptied; the address that they add their number to. */
async function unitDatabases(): Promise<{ url: string; stop: () => void }> {
  const cluster = await startCluster();
  for (let worker = 1; worker <= workers; worker++) {
    const url = await cluster.open(`navvy_unit_${worker}`);
    await emptyDatabase(url);
    await migrateDatabase(url, paths.migrations);
  }
  return { url: (await cluster.open('navvy_unit_1')).replace(/_1$/, ''), stop: () => cluster.stop() };
}

const specFolder = join(projectRoot, 'tests');
/** A spec's file; one that is named may have the line of a test behind it. */
const fileOf = (spec: string) => spec.replace(/:\d+$/, '');
const allSpecs = () => readdirSync(specFolder).filter((name) => name.endsWith('.spec.ts'));

/** Drives the real interface: each spec against a Navvy of its own, two side by side, the longest first. */
async function endToEnd(
  specs: readonly string[],
  more: readonly string[] = [],
): Promise<readonly TestOutcome[]> {
  await buildApp();
  await makeTestClips();
  const waiting = specs.toSorted(
    (a, b) => statSync(join(specFolder, fileOf(b))).size - statSync(join(specFolder, fileOf(a))).size,
  );
  const outcomes: TestOutcome[] = [];
  const lane = async (number: number) => {
    for (let spec = waiting.shift(); spec !== undefined; spec = waiting.shift())
      outcomes.push(...(await endToEndSpec(spec, number, more)));
  };
  await Promise.all(Array.from({ length: cores }, (_, number) => lane(number)));
  return outcomes;
}

async function endToEndSpec(
  spec: string,
  lane: number,
  more: readonly string[],
): Promise<readonly TestOutcome[]> {
  const ownHome = join(home, 'specs', basename(fileOf(spec), '.spec.ts'));
  const report = join(ownHome, 'playwright.json');
  rmSync(report, { force: true });
  const succeeded = await runTool(
    `end to end: ${spec}`,
    ['--import', 'tsx', join(projectRoot, 'src/cli/testSpec.ts'), spec, ...more],
    {
      NAVVY_HOME: ownHome,
      NAVVY_PORT: String(4_700 + lane * 100),
      NAVVY_DATABASE_PORT: String(54_400 + lane * 100),
      NAVVY_TEST_CLIPS: join(paths.media, 'small'),
      NAVVY_WATCHDOG_MS: '8000',
      NAVVY_RIG_NAME: 'Slipway',
    },
  );
  const found = readReport(report) as PlaywrightReport | null;
  return judged(found ? playwrightOutcomes(found) : [], `tests/${spec}`, succeeded);
}

/** Tests whose files end so measure, or need a rig that stands still: they run by themselves. All others share the cores. */
const measured = '\\.measured\\.test\\.';
/** Some of the tests only wait: one more than there are cores keeps the cores at work. */
const workers = cores + 1;

async function runAll(databaseUrl: string): Promise<readonly TestOutcome[]> {
  const outcomes: TestOutcome[] = [];
  // These measure nothing, so they may share the cores.
  outcomes.push(
    ...(
      await Promise.all([
        check('lint', [tool('eslint/bin/eslint.js'), 'src', 'tests', '--max-warnings', '0']),
        check('lint by types, and cycles', [tool('oxlint/bin/oxlint'), 'src', 'tests', '--deny-warnings']),
        check('format', [tool('oxfmt/bin/oxfmt'), '--list-different', '.']),
        check('unused code', [tool('knip/bin/knip.js'), '--no-config-hints']),
        check('types', [tool('typescript-native/bin/tsc'), '--noEmit', '-p', 'tsconfig.json']),
        buildApp().then(
          () => [],
          (error: unknown) => {
            process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
            return judged([], 'build', false);
          },
        ),
        check('types of core, without DOM and Node.js', [
          tool('typescript-native/bin/tsc'),
          '--noEmit',
          '-p',
          'tsconfig.core.json',
        ]),
        jest(
          'tests side by side',
          [`--maxWorkers=${workers}`, '--testPathIgnorePatterns', measured],
          databaseUrl,
        ),
      ])
    ).flat(),
  );
  outcomes.push(...(await jest('tests that measure', ['--testPathPatterns', measured], databaseUrl)));
  outcomes.push(
    ...(await endToEnd(allSpecs()).catch((error: unknown) => {
      process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
      return judged([], 'end to end', false);
    })),
  );
  return outcomes;
}

/** The tests that paths name, those of the interface and all others; what is no path goes to both tools. */
function sortNamed(named: readonly string[]): { specs: string[]; others: string[]; more: string[] } {
  const specs = new Set<string>();
  const sorted = { others: [] as string[], more: [] as string[] };
  for (const argument of named) {
    const path = join(projectRoot, fileOf(argument));
    if (!/^(src|tests)\b/.test(argument)) sorted.more.push(argument);
    else if (!existsSync(path))
      throw new CliError(`There is nothing at ${argument}. Name files or folders below src or tests.`);
    else if (argument.startsWith('src')) sorted.others.push(argument);
    else if (statSync(path).isDirectory()) allSpecs().forEach((spec) => specs.add(spec));
    else specs.add(basename(argument));
  }
  return { specs: [...specs], ...sorted };
}

async function runNamed(named: readonly string[], databaseUrl: string): Promise<readonly TestOutcome[]> {
  const { specs, others, more } = sortNamed(named);
  return [
    ...(others.length > 0 ? await jest('named tests', [...others, ...more], databaseUrl) : []),
    ...(specs.length > 0 ? await endToEnd(specs, more) : []),
  ];
}

/** All that must hold before a change lands; ends with the line CI reads. With paths as arguments only the tests they name run. */
export async function runTests(): Promise<void> {
  prepareHome();
  const begun = Date.now();
  const named = process.argv.slice(3);
  const { url, stop } = await unitDatabases();
  let outcomes: readonly TestOutcome[] = [];
  try {
    outcomes = named.length === 0 ? await runAll(url) : await runNamed(named, url);
  } finally {
    stop();
  }
  process.stdout.write(`\nThe whole run took ${secondsSince(begun)} s. ${closingWords(outcomes)}\n`);
  process.exit(isGreen(outcomes) ? 0 : 1);
}
