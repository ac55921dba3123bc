import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { heldOf, heldTime, waitedTimes } from '../activity';
import { processorTimeOf } from '../rig';
import { Pulse } from './pulse';
import { coresOf } from './thread';
import { workFolder } from '../testing/testTrial';

const pause = (ms: number) =>
  new Promise((resolve) => {
    setTimeout(resolve, ms);
  });

async function until(holds: () => boolean): Promise<void> {
  while (!holds()) await pause(20);
}

test('lists of cores as the system writes them', () => {
  expect(coresOf('0-3,8\n')).toEqual([0, 1, 2, 3, 8]);
  expect(coresOf('5')).toEqual([5]);
});

test('what the system held back is told by old and new groups alike', () => {
  expect(heldOf('nr_periods 10\nnr_throttled 3\nthrottled_time 2500000\n')).toBe(2_500);
  expect(heldOf('usage_usec 9\nthrottled_usec 700\n')).toBe(700);
  expect(heldOf('')).toBe(0);
  expect(heldTime(-1)).toBe(0);
});

describe('the pulse', () => {
  let folder: string;
  let pulse: Pulse;
  beforeAll(async () => {
    folder = join(await workFolder(), 'build');
    pulse = Pulse.open(pathToFileURL(join(folder, 'pulse.mjs'))) as Pulse;
  });
  afterAll(() => pulse.close());

  /** A beat that was under way comes to its end; then there is none. */
  async function expectRest(): Promise<void> {
    await pause(300);
    pulse.take();
    await pause(300);
    expect(pulse.take()).toEqual([]);
  }

  test('is taken before a run, beats on every core in turn, and rests', async () => {
    const before = await pulse.before();
    expect(before).toBeGreaterThan(0);
    await expectRest();
    pulse.beat();
    const beats: { us: number; core: number }[] = [];
    await until(() => {
      beats.push(...pulse.take());
      return beats.length >= 8;
    });
    pulse.rest();
    const cores = [...new Set(beats.map(({ core }) => core))];
    expect(cores).not.toContain(-1);
    beats.slice(cores.length).forEach(({ core }, at) => expect(core).toBe(beats[at]?.core));
    expect(beats.every(({ us }) => us > 0)).toBe(true);
    await expectRest();
  });

  test('there is none where its thread was not bundled', () => {
    expect(Pulse.open(pathToFileURL(join(folder, 'nowhere.mjs')))).toBeNull();
  });
});

test('who shares a core waits for it about as long as it has it; who has one alone hardly does', async () => {
  const spin = () =>
    spawn('taskset', ['--cpu-list', '0', process.execPath, '-e', 'for(;;);'], { stdio: 'ignore' });
  const [one, other] = [spin(), spin()];
  try {
    const waitedOf = (pid: number) => [...waitedTimes(pid).values()].reduce((sum, us) => sum + us, 0);
    // From when both run.
    await until(() => [one, other].every(({ pid }) => (processorTimeOf(pid ?? 0) ?? 0) >= 300_000));
    const from = { ran: processorTimeOf(one.pid ?? 0) ?? 0, waited: waitedOf(one.pid ?? 0) };
    await until(() => (processorTimeOf(one.pid ?? 0) ?? 0) - from.ran >= 500_000);
    expect(waitedOf(one.pid ?? 0) - from.waited).toBeGreaterThan(0.6 * 500_000);
  } finally {
    for (const child of [one, other]) child.kill('SIGKILL');
  }
  expect(waitedTimes(-1).size).toBe(0);
});
