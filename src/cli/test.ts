import { spawn } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { migrateDatabase } from '@/db/migrate';
import { smallIntra, smallLongGop, smallTenBit } from '@/demo/smallClips';
import { encodeDemoClip } from '@/demo/encodeClip';
import { buildApp } from './buildApp';
import { projectRoot } from './bundle';
import { home, paths, prepareHome } from './home';
import { startCluster, type Cluster } from './postgres';
import { startRunner, startServer } from './supervise';

interface Count { passed: number; failed: number }

const tool = (...path: string[]) => join(projectRoot, 'node_modules', ...path);

/** Runs a Node.js tool with its output shown; this process goes on looking after what it has started. Resolves to whether it succeeded. */
async function runTool(name: string, args: readonly string[], environment: Record<string, string> = {}): Promise<boolean> {
  const begun = Date.now();
  process.stdout.write(`\n== ${name}\n`);
  const child = spawn(process.execPath, [...args], { cwd: projectRoot, stdio: ['ignore', 'inherit', 'inherit'], env: { ...process.env, ...environment } });
  const status = await new Promise<number | null>((resolve) => { child.once('close', resolve); });
  process.stdout.write(`== ${name}: ${status === 0 ? 'passed' : 'FAILED'} in ${((Date.now() - begun) / 1000).toFixed(0)} s\n`);
  return status === 0;
}

async function check(name: string, args: readonly string[]): Promise<Count> {
  return (await runTool(name, args)) ? { passed: 1, failed: 0 } : { passed: 0, failed: 1 };
}

/** Reads a report's counts; a run that left none counts as one failure. */
function readReport<Report>(file: string, succeeded: boolean, counts: (report: Report) => Count): Count {
  if (!existsSync(file)) return { passed: 0, failed: 1 };
  const found = counts(JSON.parse(readFileSync(file, 'utf8')) as Report);
  return !succeeded && found.failed === 0 ? { ...found, failed: 1 } : found;
}

/** Unit, engine and server tests, the last against an empty database of their own. */
async function unitTests(cluster: Cluster, only: readonly string[] = []): Promise<Count> {
  const url = await cluster.open('navvy_unit');
  await emptyDatabase(url);
  await migrateDatabase(url, paths.migrations);
  return jest('unit and engine tests', only, { NAVVY_DATABASE_URL: url });
}

async function jest(name: string, args: readonly string[], environment: Record<string, string> = {}): Promise<Count> {
  const report = join(home, `jest-${name.replaceAll(' ', '-')}.json`);
  rmSync(report, { force: true });
  const succeeded = await runTool(name, [tool('jest/bin/jest.js'), '--json', `--outputFile=${report}`, ...args], { NODE_OPTIONS: '--experimental-vm-modules --no-warnings', ...environment });
  return readReport<{ numPassedTests: number; numFailedTests: number; numRuntimeErrorTestSuites: number }>(report, succeeded, (found) => ({ passed: found.numPassedTests, failed: found.numFailedTests + found.numRuntimeErrorTestSuites }));
}

/** Drives the real interface against a Navvy of its own, on a fresh database with small clips. */
async function endToEndTests(cluster: Cluster, only: readonly string[] = []): Promise<Count> {
  const media = join(paths.media, 'bench-folder');
  for (const clip of [smallIntra, smallLongGop, smallTenBit]) await encodeDemoClip(clip, media);
  await buildApp();
  await emptyDatabase(cluster.url);
  await migrateDatabase(cluster.url, paths.migrations);
  const runner = startRunner(cluster, { NAVVY_WATCHDOG_MS: '8000', NAVVY_RIG_NAME: 'Slipway' });
  const { service, address } = await startServer(cluster.url, 4700);
  const report = join(home, 'playwright.json');
  rmSync(report, { force: true });
  try {
    const succeeded = await runTool('end-to-end tests', [tool('@playwright/test/cli.js'), 'test', ...(only.length > 0 ? ['--no-deps'] : []), ...only], { NAVVY_ADDRESS: address, NAVVY_DATABASE_URL: cluster.url, NAVVY_TEST_MEDIA: media });
    return readReport<{ stats: { expected: number; unexpected: number; flaky: number } }>(report, succeeded, ({ stats }) => ({ passed: stats.expected + stats.flaky, failed: stats.unexpected }));
  } finally {
    await Promise.all([service.stop(), runner.stop()]);
  }
}

async function emptyDatabase(url: string): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query('drop schema if exists drizzle cascade; drop schema if exists pgboss cascade; drop schema public cascade; create schema public');
  await client.end();
}

/** All that must hold before a change lands; ends with the line CI reads. With paths as arguments only the tests they name run. */
export async function runTests(): Promise<void> {
  prepareHome();
  const counts: Count[] = [];
  const named = process.argv.slice(3);
  const cluster = await startCluster();
  try {
    if (named.length === 0) await runAll(counts, cluster);
    else counts.push(await (named[0]?.startsWith('src') ? unitTests(cluster, named) : endToEndTests(cluster, named)));
  } finally {
    cluster.stop();
  }
  const sum = counts.reduce((total, count) => ({ passed: total.passed + count.passed, failed: total.failed + count.failed }));
  process.stdout.write(`\n${sum.passed} passed, ${sum.failed} failed\n`);
  process.exit(sum.failed === 0 ? 0 : 1);
}

/** Where tests are that neither measure nor need the database, as patterns of their paths. */
const unmeasured = ['/src/core/', '/src/ui/', '/src/cli/', '/src/demo/', '/src/engine/__tests__/(formats|media|mediaParts|pictureGraph|volume)\\.test', '/src/server/__tests__/(mediaInputs|timelineInputs)\\.test'];

async function runAll(counts: Count[], cluster: Cluster): Promise<void> {
  // These measure nothing, so they may share the cores.
  counts.push(...await Promise.all([
    check('lint', [tool('eslint/bin/eslint.js'), 'src', 'tests', '--max-warnings', '0']),
    check('types', [tool('typescript/bin/tsc'), '--noEmit', '-p', 'tsconfig.json']),
    check('types of core, without DOM and Node.js', [tool('typescript/bin/tsc'), '--noEmit', '-p', 'tsconfig.core.json']),
    jest('tests that measure nothing', ['--maxWorkers=2', ...unmeasured]),
  ]));
  counts.push(await unitTests(cluster, ['--testPathIgnorePatterns', ...unmeasured]));
  counts.push(await endToEndTests(cluster).catch((error: unknown) => {
    process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
    return { passed: 0, failed: 1 };
  }));
}
