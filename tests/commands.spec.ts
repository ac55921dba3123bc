import { createHash } from 'node:crypto';
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { chmod, mkdir, mkdtemp, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { ensureVolume, media, startTrial } from './helpers';

/** The script as a person runs it, in a home of its own far from the project, under a name with a space and through a link. */
let base: string;
let home: string;
/** What it is called by. */
let named: string;
const script = join(process.cwd(), 'navvy');
const environment = () => ({
  ...process.env,
  NAVVY_HOME: named,
  NAVVY_PORT: '5300',
  NAVVY_ROOTS: media,
  NAVVY_DATABASE_URL: '',
});

test.beforeAll(async () => {
  base = await mkdtemp(join(tmpdir(), 'navvy-commands-'));
  await chmod(base, 0o755); // open to the database's account, so that all of it lies and goes with this folder
  home = join(base, 'data of Navvy');
  await mkdir(home);
  named = join(base, 'link');
  await symlink(home, named);
});
test.afterAll(async () => {
  // What a failed test has left running ends before its data go.
  await Promise.all(
    started.map(({ child, ended }) => {
      child.kill('SIGINT');
      return ended;
    }),
  );
  await rm(base, { recursive: true, force: true });
});

interface Started {
  readonly child: ChildProcess;
  readonly output: () => string;
  readonly ended: Promise<number | null>;
}
const started: Started[] = [];

function start(...args: string[]): Started {
  const child = spawn(script, args, { env: environment(), stdio: ['ignore', 'pipe', 'pipe'] });
  let text = '';
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (part: Buffer) => {
      text += part.toString();
    });
  const one: Started = {
    child,
    output: () => text,
    ended: new Promise((resolve) => {
      child.once('close', resolve);
    }),
  };
  started.push(one);
  return one;
}

const runs = (pid: number) =>
  existsSync(`/proc/${pid}`) && !/^\d+ \(.*\) Z/.test(readFileSync(`/proc/${pid}/stat`, 'utf8'));
const pidsOf = () =>
  ['server', 'runner'].map((name) => Number(readFileSync(join(home, `${name}.pid`), 'utf8')));
/** The database's process: its data lie in the home, or beside the system's temporary data where the database's account cannot reach the project. */
const postgresPid = () => {
  const key = createHash('sha256').update(home).digest('hex').slice(0, 10);
  const file = [home, join('/var/tmp', `navvy-${key}`)]
    .map((folder) => join(folder, 'postgres', 'postmaster.pid'))
    .find((path) => existsSync(path))!;
  return Number(readFileSync(file, 'utf8').split('\n')[0]);
};

async function untilReady(command: ReturnType<typeof start>): Promise<string> {
  await expect.poll(() => command.output()).toContain('Navvy is ready at');
  return /http:\/\/127\.0\.0\.1:\d+/.exec(command.output())![0];
}

test('start, a second start, Ctrl-C, and a kill: nothing stays behind', async ({ page, browser }) => {
  const first = start('start');
  const address = await untilReady(first);
  await page.goto(address);
  await expect(page.getByRole('heading', { name: 'No volume yet' })).toBeVisible();

  // A trial's process finds its packages, wherever the data lie.
  const there = await browser.newPage({ baseURL: address });
  await ensureVolume(there);
  await startTrial(there, 'TW_TEST_0001', 'Quarter');
  await expect(there.getByTestId('answer')).toContainText(/All 240 slots were shown|of 240 slots dropped/);
  await there.close();

  const second = start('start');
  expect(await second.ended).toBe(0);
  expect(second.output()).toContain(`Navvy is running already: ${address}`);
  const refused = start('reset', '--yes');
  expect(await refused.ended).toBe(1);
  expect(refused.output()).toContain('Navvy is running. Stop it with Ctrl-C');

  const pids = pidsOf();
  const database = postgresPid();
  expect(pids.every(runs)).toBe(true);
  first.child.kill('SIGINT');
  expect(await first.ended).toBe(0);
  expect(pids.filter(runs)).toEqual([]);
  expect(runs(database)).toBe(false);

  const again = start('start');
  await untilReady(again);
  const orphans = pidsOf();
  const supervisor = (JSON.parse(readFileSync(join(home, 'running.json'), 'utf8')) as { pid: number }).pid;
  process.kill(supervisor, 'SIGKILL');
  await expect.poll(() => orphans.filter(runs)).toEqual([]);

  // What is left of it, the database, is found and used by the next start.
  const last = start('start');
  await untilReady(last);
  last.child.kill('SIGINT');
  expect(await last.ended).toBe(0);
});

test('reset asks first and says what goes', () => {
  const answered = (answer: string) =>
    spawnSync(script, ['reset'], { env: environment(), input: `${answer}\n`, encoding: 'utf8' });
  const kept = answered('no');
  expect(kept.stdout).toContain('This removes the demo volume with its clips');
  expect(kept.stdout).toContain('Nothing was removed.');
  expect(answered('yes').stdout).toContain('Removed 0 demo volume(s), 0 trial(s) and the demo media.');
});
