import { spawn } from 'node:child_process';
import { mkdtemp, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { processorTimeOf, processorTimes, readPower, readRigIdentity, readRigState, thisRigId } from './rig';

test('a rig has an identity of its own that stays the same', async () => {
  expect(await thisRigId()).toMatch(/^rig-[0-9a-f]{12}$/);
  expect(await thisRigId()).toBe(await thisRigId());
  const identity = await readRigIdentity();
  expect(identity.logicalCores).toBeGreaterThanOrEqual(identity.physicalCores > 0 ? 1 : 0);
  expect(identity.memoryBytes).toBeGreaterThan(1e8);
  expect(identity.processor.length).toBeGreaterThan(2);
  expect(identity.system.length).toBeGreaterThan(2);
});

test('the state names power and the busiest other processes, and leaves our own out', async () => {
  // Under a name of its own: others of ours may be as busy.
  const folder = await mkdtemp(join(tmpdir(), 'navvy-rig-'));
  await symlink('/bin/sh', join(folder, 'busywork'));
  const busy = spawn(join(folder, 'busywork'), ['-c', 'while :; do :; done'], { stdio: 'ignore' });
  try {
    await readRigState(new Set()); // the first look has nothing to compare with
    const before = { ms: performance.now(), us: processorTimeOf(busy.pid!)! };
    // A look within half a second of the one before gives what that gave, and a timer may wake a little early.
    await new Promise((resolve) => {
      setTimeout(resolve, 750);
    });
    const share = (processorTimeOf(busy.pid!)! - before.us) / 1e3 / (performance.now() - before.ms);
    const seen = await readRigState(new Set());
    expect(['mains', 'battery', 'unknown']).toContain(seen.power);
    expect(seen.power).toBe(await readPower());
    expect(seen.freeMemoryBytes).toBeGreaterThan(0);
    expect(seen.busiest.length).toBeLessThanOrEqual(5);
    const shares = seen.busiest.map((one) => one.share);
    // Among the five, unless five others were as busy.
    expect(seen.busiest.some(({ name }) => name === 'busywork') || shares.at(-1)! > share * 0.7).toBe(true);
    expect(shares).toEqual([...shares].sort((a, b) => b - a));
    for (const own of [busy.pid!, process.pid])
      expect((await readRigState(new Set([own]))).busiest.map(({ name }) => name)).not.toContain('busywork'); // itself, and what it was started by
  } finally {
    busy.kill('SIGKILL');
    await rm(folder, { recursive: true });
  }
});

test('the rig is busy with whatever it could not use, also what a host took from a virtual machine', () => {
  expect(processorTimes('cpu  100 20 30 800 50 5 5 90 0 0\ncpu0 1 1 1 1 1 1 1 1 0 0\n')).toEqual({
    busyMs: 2_500,
    totalMs: 11_000,
    stolenMs: 900,
    cores: new Map([[0, { busyMs: 60, totalMs: 80, stolenMs: 10 }]]),
  });
});

test("a process's own time grows with its work, and is unknown when it has gone", async () => {
  const before = processorTimeOf(process.pid)!;
  const rigBefore = processorTimes();
  const until = Date.now() + 30_000;
  while (processorTimeOf(process.pid)! - before < 100_000 && Date.now() < until)
    for (let step = 0; step < 1e6; step++) Math.sqrt(step);
  expect(processorTimeOf(process.pid)! - before).toBeGreaterThanOrEqual(100_000);
  expect(processorTimes().busyMs - rigBefore.busyMs).toBeGreaterThan(50);
  const child = spawn('true');
  await new Promise((resolve) => {
    child.once('close', resolve);
  });
  expect(processorTimeOf(child.pid!)).toBeNull();
});
