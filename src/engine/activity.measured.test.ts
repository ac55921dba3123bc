import { chmod, copyFile, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import {
  diskBytes,
  isBelow,
  networkBytes,
  ownName,
  processBytes,
  ProcessWatch,
  systemBytes,
} from './activity';
import { processName } from './processName';
import { endedChildrenTime, processorTimeOf } from './rig';

/** Keeps this process's thread busy until it has had so much processor time, however long that takes. */
function workFor(ms: number): void {
  const { user } = process.cpuUsage();
  while (process.cpuUsage().user - user < ms * 1_000) for (let step = 0; step < 1e5; step++) Math.sqrt(step);
}

test('bytes of whole disks are summed, partitions and devices made of others are not counted twice', () => {
  expect(
    diskBytes(
      [
        '   8       0 sda 100 0 2000 10 50 0 1000 5 0 10 15',
        '   8       1 sda1 100 0 2000 10 50 0 1000 5 0 10 15',
        ' 259       0 nvme0n1 1 0 8 1 1 0 8 1 0 1 1',
        ' 259       1 nvme0n1p2 1 0 8 1 1 0 8 1 0 1 1',
        '   7       0 loop0 5 0 99 1 0 0 0 0 0 1 1',
        ' 253       0 dm-0 5 0 99 1 0 0 0 0 0 1 1',
        '',
      ].join('\n'),
    ),
  ).toBe((3_000 + 16) * 512);
});

test('bytes of every interface but the loopback are summed, received and sent', () => {
  expect(
    networkBytes(
      'Inter-|   Receive                                                |  Transmit\n face |bytes    packets errs drop fifo frame compressed multicast|bytes    packets\n    lo: 999 1 0 0 0 0 0 0 999 1 0 0 0 0 0 0\n  eth0: 1500 3 0 0 0 0 0 0 700 2 0 0 0 0 0 0\n wlan0: 10 1 0 0 0 0 0 0 5 1 0 0 0 0 0 0\n',
    ),
  ).toBe(2_215);
});

test('this system tells its totals, and nothing of a process that is not there', () => {
  expect(systemBytes().network).toBeGreaterThanOrEqual(0);
  expect(processBytes(process.pid)?.diskBytes).toBeGreaterThanOrEqual(0);
  expect(processBytes(2 ** 30)).toBeNull();
});

test('what a child did before it ended stands on the account of the process that started it', async () => {
  const before = { cpuUs: endedChildrenTime(), moved: processBytes(process.pid)!.movedBytes };
  const child = spawn(
    process.execPath,
    [
      '-e',
      'const fs = require("fs"); const zero = fs.openSync("/dev/zero"); fs.readSync(zero, Buffer.alloc(64e6)); while (process.cpuUsage().user < 300_000);',
    ],
    { stdio: 'ignore' },
  );
  await once(child, 'close');
  expect(processorTimeOf(child.pid!)).toBeNull();
  expect(endedChildrenTime() - before.cpuUs).toBeGreaterThan(100_000);
  expect(processBytes(process.pid)!.movedBytes - before.moved).toBeGreaterThan(63e6);
});

test('processes are named with what they took since the first look; own ones are not others', () => {
  const mine = new ProcessWatch((pid) => pid !== process.pid);
  workFor(250);
  mine.look();
  const [busiest] = mine.busiest();
  expect(busiest?.share).toBeGreaterThan(0.01);
  expect(busiest?.share).toBeLessThan(2);
  expect(new ProcessWatch(() => true).busiest()).toEqual([]);
});

test('what a process took before the watch began is not counted', async () => {
  const child = spawn(
    process.execPath,
    ['-e', 'while (process.cpuUsage().user < 1_500_000); console.log("spent"); setInterval(() => {}, 1e6)'],
    { stdio: ['ignore', 'pipe', 'ignore'] },
  );
  try {
    await once(child.stdout, 'data');
    const watch = new ProcessWatch((pid) => pid !== process.pid && pid !== child.pid);
    workFor(250);
    watch.look();
    expect(processorTimeOf(child.pid!)).toBeGreaterThan(1e6);
    expect(watch.busiest().reduce((sum, { share }) => sum + share, 0)).toBeLessThan(2); // of this process alone
  } finally {
    child.kill();
  }
});

test('what one of our own processes started goes by our own name', () => {
  expect(isBelow(process.pid, new Set([process.pid]))).toBe(true);
  expect(isBelow(process.pid, new Set([process.ppid]))).toBe(true);
  expect(isBelow(process.ppid, new Set([process.pid]))).toBe(false);
  expect(isBelow(1, new Set([1]))).toBe(true); // the first process of all may be ours
  const watch = new ProcessWatch((pid) => pid !== process.pid, new Set([process.ppid]));
  workFor(250);
  watch.look();
  expect(watch.busiest().map(({ name }) => name)).toEqual([ownName]);
});

test('a process whose name is longer than the system keeps goes by its whole name', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'navvy-name-'));
  const name = 'a-program-with-a-name-that-is-long';
  const path = join(folder, name);
  await copyFile('/bin/sleep', path);
  await chmod(path, 0o755);
  const child = spawn(path, ['60'], { stdio: 'ignore' });
  try {
    await once(child, 'spawn');
    expect(processName(child.pid!)).toBe(name);
  } finally {
    child.kill();
    await rm(folder, { recursive: true, force: true });
  }
  expect(processName(2 ** 30)).toBeNull();
});
