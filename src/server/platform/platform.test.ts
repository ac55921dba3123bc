import { jest } from '@jest/globals';
import { spawn } from 'node:child_process';
import { noGraphics } from '@/core/rig/graphics';
import { disturbanceOf } from '@/core/rig/disturbance';
import { doubtOf } from '@/core/rig/doubt';
import { isDatabaseDown } from '@/db/client';
import { EngineError, errorCode, fileErrorMessage } from '@/engine/errors';
import { RequestError } from './errors';
import { answer, checked, parseJson, readText } from './http';
import { LoadMeter } from '../runner/shared/loadMeter';
import type { MeasuredPulse } from '../runner/shared/measuredPulse';
import { PulseReference } from '../runner/shared/pulseReference';
import { retryWhileAway } from '../runner/shared/retryWhileAway';
import { PictureServer } from '../runner/pictureServer';
import { rigInput } from '@/core/asked/library';
import { volumeInput } from '@/core/asked/volumes';
import { playbackInput } from '@/core/kinds/playback';

const away = Object.assign(new Error('connect ECONNREFUSED'), { code: 'ECONNREFUSED' });

test('a database that is away is told from a wrong query', () => {
  expect(isDatabaseDown(away)).toBe(true);
  expect(isDatabaseDown(new Error('Failed query', { cause: away }))).toBe(true);
  expect(isDatabaseDown(Object.assign(new AggregateError([away]), { code: undefined }))).toBe(true);
  expect(isDatabaseDown(Object.assign(new Error('terminating'), { code: '57P01' }))).toBe(true);
  expect(isDatabaseDown(new Error('Connection terminated unexpectedly'))).toBe(true);
  expect(isDatabaseDown(Object.assign(new Error('syntax error'), { code: '42601' }))).toBe(false);
  expect(isDatabaseDown(null)).toBe(false);
});

test('saving waits for a database that is away, and gives up at once on anything else', async () => {
  let attempts = 0;
  await expect(
    retryWhileAway(() => (++attempts < 3 ? Promise.reject(away) : Promise.resolve('saved'))),
  ).resolves.toBe('saved');
  expect(attempts).toBe(3);
  await expect(retryWhileAway(() => Promise.reject(new Error('no such column')))).rejects.toThrow(
    'no such column',
  );
});

describe('answers of routes', () => {
  const read = async (response: Response) => [response.status, (await response.json()) as unknown] as const;

  test.each([
    [
      new RequestError('clip-gone', {}, 'clipId'),
      404,
      {
        code: 'clip-gone',
        message: 'This clip is no longer in the library. Choose another.',
        field: 'clipId',
      },
    ],
    [
      new EngineError('empty-file', { path: '/x' }),
      400,
      { code: 'empty-file', message: '/x is empty: 0 bytes. Copy it again from its source.', field: null },
    ],
  ])('%s becomes words and a status', async (error, status, body) => {
    expect(await read(await answer(() => Promise.reject(error)))).toEqual([status, body]);
  });

  test('a database that is away is 503 and says what to do; anything unforeseen is 500 without its inside', async () => {
    expect(await read(await answer(() => Promise.reject(away)))).toMatchObject([
      503,
      { message: expect.stringContaining('./navvy start') as string },
    ]);
    const log = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    const unforeseen = await read(await answer(() => Promise.reject(new Error('secret inside'))));
    expect(unforeseen[0]).toBe(500);
    expect(JSON.stringify(unforeseen[1])).not.toContain('secret');
    expect(log).toHaveBeenCalled();
    log.mockRestore();
  });

  test('nothing to say is ok, a response goes through', async () => {
    expect(await read(await answer(() => Promise.resolve()))).toEqual([200, { ok: true }]);
    expect((await answer(() => Promise.resolve(new Response('x', { status: 206 })))).status).toBe(206);
  });

  const post = (body: string) => new Request('http://localhost/', { method: 'POST', body });
  const readBody = async <Schema extends Parameters<typeof checked>[1]>(request: Request, schema: Schema) =>
    checked(parseJson(await readText(request, 1e6)), schema);

  test('a body is checked at the edge: unknown fields go, defaults come, faults name their field', async () => {
    await expect(readBody(post('{"clipId":"c","scale":"half","extra":1}'), playbackInput)).resolves.toEqual({
      clipId: 'c',
      scale: 'half',
      depth: 'kept',
      fields: 'woven',
      decodeOn: [],
      cache: 'past',
      underWay: null,
      meanwhile: 'nothing',
      sound: 'on',
      policy: 'hold-time',
      threads: 0,
      warm: false,
    });
    await expect(
      readBody(post('{"clipId":"c","scale":"half","threads":-1}'), playbackInput),
    ).rejects.toMatchObject({ message: 'Threads cannot be negative.', field: 'threads' });
    await expect(readBody(post('{"name":" ","kind":"card","path":"/x"}'), volumeInput)).rejects.toMatchObject(
      { field: 'name' },
    );
    await expect(
      readBody(post('{"name":"A","kind":"floppy","path":"/x"}'), volumeInput),
    ).rejects.toMatchObject({ field: 'kind', message: 'Choose internal, external, network or card.' });
    await expect(readBody(post('not json'), rigInput)).rejects.toThrow('The request is not JSON.');
    await expect(readBody(post(`{"name":"${'x'.repeat(81)}"}`), rigInput)).rejects.toThrow(
      'at most 80 characters',
    );
  });
});

test('file errors say what happened to which file and what to do', () => {
  const of = (code: string) => fileErrorMessage(Object.assign(new Error('x'), { code }), '/media/a.mov');
  expect(of('ENOENT')).toMatch(/^\/media\/a\.mov is not there\. Check that the volume is connected/);
  expect(of('EACCES')).toContain('Give permission on it');
  expect(of('ENOSPC')).toContain('the volume is full. Free space on it');
  expect(of('EROFS')).toContain('the volume is read-only. Mount it for writing');
  expect(of('EEXIST')).toContain('was left as it is');
  expect(of('EIO')).toContain('drive, cable or link');
  expect(of('ESTALE')).toContain('network store that has dropped out');
  expect(of('EWHAT')).toContain('could not be used: x');
  expect([errorCode(null), errorCode('x'), errorCode({ code: 5 }), errorCode({ code: 'E' })]).toEqual([
    null,
    null,
    null,
    'E',
  ]);
});

test("the load meter tells the trial's work from that of others", async () => {
  const child = spawn(process.execPath, ['-e', 'for (;;);'], { stdio: 'ignore' });
  try {
    const meter = new LoadMeter(() => [child.pid!]);
    expect(meter.summary(null)).toBeNull();
    const until = Date.now() + 400;
    while (Date.now() < until) Math.sqrt(until); // this process's own work is nobody else's
    await new Promise((resolve) => {
      setTimeout(resolve, 50);
    });
    const sample = meter.sample()!;
    expect(sample.trialLoad).toBeGreaterThan(0);
    expect(sample.othersLoad).toBeGreaterThanOrEqual(0);
    expect(sample.trialLoad + sample.othersLoad).toBeLessThanOrEqual(1.5);
    expect(meter.summary(5)).toMatchObject({
      trialMean: sample.trialLoad,
      othersPeak: sample.othersLoad,
      peakMemoryBytes: 5,
    });
  } finally {
    child.kill();
  }
});

describe('the load meter, of what the system counts', () => {
  const hundred = 100e6;
  /** A rig of two cores whose counters the test moves; each step is 100 ms of it. */
  function rig() {
    const at = {
      busyMs: 0,
      totalMs: 0,
      stolenMs: 0,
      disk: 0,
      network: 0,
      linked: 0,
      endedUs: 0,
      heldUs: 0,
      clocksFollowLoad: false,
    };
    const waits = new Map<number, Map<number, number>>();
    const cores = new Map([
      [0, { busyMs: 0, totalMs: 0, stolenMs: 0 }],
      [1, { busyMs: 0, totalMs: 0, stolenMs: 0 }],
    ]);
    const processes = new Map<number, { cpuUs: number; diskBytes: number; movedBytes: number }>([
      [process.pid, { cpuUs: 0, diskBytes: 0, movedBytes: 0 }],
    ]);
    const sensors = { clockGigahertz: 3, temperatureCelsius: null as number | null, throttled: false };
    const meter = (pids: () => number[], pulse: MeasuredPulse | null = null) =>
      new LoadMeter(pids, {
        byName: false,
        pulse,
        sensors: { look: () => ({ ...sensors }) },
        graphics: { look: (of) => ({ ...noGraphics, trialGraphicsLoad: of.length / 10 }) },
        tells: {
          runnerTime: () => 0,
          processorTimes: () => ({
            busyMs: at.busyMs,
            totalMs: at.totalMs,
            stolenMs: at.stolenMs,
            cores: new Map(cores),
          }),
          waitedTimes: (pid) => new Map(waits.get(pid)),
          heldTime: () => at.heldUs,
          clocksFollowLoad: () => at.clocksFollowLoad,
          systemBytes: () => ({ disk: at.disk, network: at.network }),
          linkBytes: (names) => (names.has('eth9') ? at.linked : null),
          endedChildrenTime: () => at.endedUs,
          processorTimeOf: (pid) => processes.get(pid)?.cpuUs ?? null,
          processBytes: (pid) => processes.get(pid) ?? null,
        },
      });
    const step = async (
      change: Partial<typeof at>,
      work: Readonly<Record<number, { cpuUs?: number; disk?: number; moved?: number }>> = {},
    ) => {
      at.totalMs += 200;
      for (const key of ['busyMs', 'disk', 'network', 'linked'] as const) at[key] += change[key] ?? 0;
      for (const [pid, { cpuUs = 0, disk = 0, moved = disk }] of Object.entries(work)) {
        const known = processes.get(Number(pid)) ?? { cpuUs: 0, diskBytes: 0, movedBytes: 0 };
        processes.set(Number(pid), {
          cpuUs: known.cpuUs + cpuUs,
          diskBytes: known.diskBytes + disk,
          movedBytes: known.movedBytes + moved,
        });
      }
      await new Promise((resolve) => {
        setTimeout(resolve, 20);
      });
    };
    /** A process ends after some last work, which it takes with it to the runner's account. */
    const ends = (pid: number, { cpuUs, disk }: { cpuUs: number; disk: number }) => {
      const { cpuUs: had, diskBytes, movedBytes } = processes.get(pid)!;
      const runner = processes.get(process.pid)!;
      at.endedUs += had + cpuUs;
      processes.set(process.pid, {
        ...runner,
        diskBytes: runner.diskBytes + diskBytes + disk,
        movedBytes: runner.movedBytes + movedBytes + disk,
      });
      processes.delete(pid);
    };
    return { meter, step, ends, at, waits, cores, sensors };
  }

  test('several processes of a batch are its own, also when they end, and what they read from disks disturbs nothing', async () => {
    const { meter: make, step, ends } = rig();
    const pids = [11, 12];
    const meter = make(() => pids);
    await step(
      { busyMs: 160, disk: 2 * hundred },
      { 11: { cpuUs: 80_000, disk: hundred }, 12: { cpuUs: 80_000, disk: hundred } },
    );
    expect(meter.sample()).toMatchObject({ trialLoad: 0.8, othersLoad: 0, othersDiskBytesPerSecond: 0 });
    ends(11, { cpuUs: 60_000, disk: hundred });
    pids.shift();
    await step({ busyMs: 160, disk: 2 * hundred }, { 12: { cpuUs: 100_000, disk: hundred } });
    expect(meter.sample()).toMatchObject({ trialLoad: 0.8, othersLoad: 0, othersDiskBytesPerSecond: 0 });
    expect(disturbanceOf(meter.summary(null))).toBeNull();
    await step({ busyMs: 100, disk: 9 * hundred }, { 12: { cpuUs: 20_000, disk: hundred } });
    const other = meter.sample()!;
    expect(other.trialLoad).toBeCloseTo(0.1, 5);
    expect(other.othersDiskBytesPerSecond! / other.trialDiskBytesPerSecond!).toBeCloseTo(8, 5);
    expect(disturbanceOf(meter.summary(null))).toMatch(/moved .*\sMB\/s on disks/);
  });

  test('what passes the interface to a store stands beside what the trial reads, from when the store is known', async () => {
    const { meter: make, step } = rig();
    const meter = make(() => [11]);
    await step({ linked: 3 * hundred }, { 11: { moved: hundred } });
    expect(meter.sample()).toMatchObject({ linkBytesPerSecond: null, trialMovedBytesPerSecond: null });
    const links = [{ volume: 'Store', server: 'store.example', interfaceName: 'eth9' }];
    meter.readsOver(links);
    for (const moved of [hundred, 0]) {
      await step({ linked: 1.5 * hundred }, { 11: { moved } });
      const sample = meter.sample()!;
      // Against the same clock.
      expect(sample.trialMovedBytesPerSecond! / sample.linkBytesPerSecond!).toBeCloseTo(
        moved / (1.5 * hundred),
        6,
      );
    }
    expect(meter.summary(null)!.link).toEqual({ links, carriedBytes: 3 * hundred, movedBytes: hundred });
    expect(make(() => [11]).overLinks).toEqual([]);
  });

  test('what a trial itself reads over the network is no disturbance; what else passes it is', async () => {
    const { meter: make, step } = rig();
    const [over, beside, none] = [make(() => [11]), make(() => [11]), make(() => [12])];
    over.readsOver([{ volume: 'Store', server: 'store.example', interfaceName: null }]);
    await step({ network: 1.08 * hundred }, { 11: { cpuUs: 1_000, moved: hundred }, 12: {} });
    for (const meter of [over, beside, none])
      expect(meter.sample()!.networkBytesPerSecond).toBeGreaterThan(0); // telemetry tells all
    expect([over, beside, none].map((meter) => disturbanceOf(meter.summary(null)))).toEqual([
      null,
      expect.stringContaining('passed the network'),
      expect.stringContaining('passed the network'),
    ]);
    await step({ network: 5 * hundred }, { 11: { moved: hundred } });
    over.sample();
    expect(disturbanceOf(over.summary(null))).toContain('passed the network');
  });

  test('clocks that tell of the trial first and of the rig later make no work of others', async () => {
    const { meter: make, step } = rig();
    const meter = make(() => [11]);
    const told: number[] = [];
    for (const busyMs of [60, 100, 70, 90]) {
      await step({ busyMs }, { 11: { cpuUs: 80_000 } });
      told.push(meter.sample()!.othersLoad);
    }
    expect(told).toEqual([0, 0, 0, 0]);
    await step({ busyMs: 120 }, { 11: { cpuUs: 80_000 } });
    expect(meter.sample()!.othersLoad).toBeCloseTo(0.2, 6);
  });

  test('time that the trial wanted and others had is told, from the first thread to the last', async () => {
    const { meter: make, step, at, waits, sensors } = rig();
    const meter = make(() => [11]);
    waits.set(
      11,
      new Map([
        [11, 0],
        [12, 60_000],
      ]),
    ); // its second thread began since
    await step({ busyMs: 120 }, { 11: { cpuUs: 80_000 } });
    // A third of what ran was others', so a third of 60 ms of waiting is theirs, of 140 ms in which it was ready.
    expect(meter.sample()!.lostShare).toBeCloseTo(20 / 140, 6);
    waits.set(11, new Map([[12, 500_000]]));
    await step({ busyMs: 80 }, { 11: { cpuUs: 80_000 } });
    const alone = meter.sample()!; // all waited for one another
    expect(alone.lostShare).toBe(0);
    expect(alone.siblingShare).toBeCloseTo(440 / 520, 6);
    at.heldUs += 20_000;
    waits.set(11, new Map([[12, 520_000]]));
    await step({ busyMs: 80 }, { 11: { cpuUs: 80_000 } });
    const held = meter.sample()!;
    expect(held.lostShare).toBeCloseTo(20 / 100, 6);
    expect(held.heldShare).toBeCloseTo(20 / 100, 6);
    expect(held).toMatchObject({ clockGigahertz: 3, temperatureCelsius: null, throttled: false });
    at.stolenMs += 40;
    Object.assign(sensors, { clockGigahertz: 2, throttled: true });
    await step({ busyMs: 120 }, { 11: { cpuUs: 80_000 } });
    expect(meter.sample()!.lostShare).toBeCloseTo(40 / 120, 6); // the host's, all of it the trial's loss
    expect(meter.summary(null)?.lostShare).toBeCloseTo(80 / (140 + 520 + 100 + 120), 6);
    expect(meter.summary(null)?.stolenMean).toBeCloseTo(40 / 800, 6);
    expect(meter.summary(null)?.heldShare).toBeCloseTo(20 / (140 + 520 + 100 + 120), 6);
    expect(held.trialGraphicsLoad).toBe(0.1);
    expect(meter.summary(null)?.graphics).toEqual({
      ...noGraphics,
      trialGraphicsLoad: { mean: expect.closeTo(0.1, 6) as number, most: 0.1 },
    });
    expect(meter.summary(null)?.sensors).toEqual({
      clockGigahertz: { first: 3, least: 2, median: 3, most: 3, last: 2 },
      temperatureCelsius: null,
      throttled: { share: 0.25, firstMs: expect.any(Number) as number },
    });
    expect(
      doubtOf({ ...meter.summary(null)!, othersMean: 0.1, lostShare: 0.24, heldShare: 0 })?.reason,
    ).toContain('for 24\u202f% of the time in which the trial was ready to run, others had its cores');
  });

  test('the pulse beats from the first moment to the summary, and idle cores that clock lower do not count', async () => {
    const { meter: make, step, at, cores } = rig();
    const told: string[] = [];
    let beats = [
      { us: 100, core: 0 },
      { us: 110, core: 1 },
    ];
    const source = {
      beat: () => {
        told.push('beat');
      },
      rest: () => {
        told.push('rest');
      },
      take: () => beats,
    };
    const steady = make(() => [11], { source, referenceUs: 100, bestUs: 90 });
    at.clocksFollowLoad = true;
    const picky = make(() => [11], { source, referenceUs: 100, bestUs: 90 });
    const go = async (us: number) => {
      beats = [
        { us, core: 0 },
        { us: 400, core: 1 },
      ];
      for (const [core, busy] of [
        [0, 90],
        [1, 10],
      ] as const)
        cores.set(core, {
          busyMs: cores.get(core)!.busyMs + busy,
          totalMs: cores.get(core)!.totalMs + 100,
          stolenMs: 0,
        });
      await step({ busyMs: 100 }, { 11: { cpuUs: 80_000 } });
      return [steady, picky].map((meter) => meter.sample()!.pulseUs);
    };
    expect(await go(100)).toEqual([250, 100]);
    for (const us of [104, 150, 151, 103]) await go(us);
    expect(told).toEqual(['beat', 'beat']);
    expect(picky.summary(null)?.pulse).toMatchObject({
      referenceUs: 100,
      medianUs: 104,
      p90Us: 150,
      bestUs: 90,
    });
    expect(told.at(-1)).toBe('rest');
    expect(make(() => [11]).summary(null)).toBeNull();
  });

  test('a run is held against what the pulse was before the last few, not against a moment of luck', async () => {
    const all = [100, 140, 102, 98, 101, 300, 99];
    let nowMs = 0;
    const pulse = {
      before: () => Promise.resolve(all.shift() ?? null),
      beat: () => undefined,
      rest: () => undefined,
      take: () => [],
    };
    const reference = new PulseReference(pulse, () => nowMs);
    const next = async () => (await reference.before(95))?.referenceUs;
    expect([await next(), await next(), await next(), await next(), await next(), await next()]).toEqual([
      100, 120, 102, 101, 101, 102,
    ]);
    nowMs += 31 * 60_000;
    expect(await next()).toBe(99); // what was half an hour ago says nothing any more
    expect(await next()).toBe(99);
    expect(await new PulseReference(null).before(null)).toBeNull();
  });
});

test('pictures reach all who watch a trial and nobody else', async () => {
  const server = new PictureServer();
  const changes: [string, number][] = [];
  server.onViewersChanged = (trialId, count) => changes.push([trialId, count]);
  const port = await server.listen();
  const open = (path: string) => fetch(`http://127.0.0.1:${port}${path}`);
  expect((await open('/elsewhere')).status).toBe(404);
  const [first, second, other] = await Promise.all([
    open('/pictures/one'),
    open('/pictures/one'),
    open('/pictures/two'),
  ]);
  expect(server.viewerCount('one')).toBe(2);
  server.send('one', 12, Uint8Array.from([1, 2, 3]));
  server.end('one');
  server.end('two');
  const bytes = await Promise.all(
    [first, second, other].map(async (response) => [...new Uint8Array(await response.arrayBuffer())]),
  );
  expect(bytes).toEqual([[3, 0, 0, 0, 12, 0, 0, 0, 1, 2, 3], [3, 0, 0, 0, 12, 0, 0, 0, 1, 2, 3], []]);
  expect(changes.filter(([trialId]) => trialId === 'one').map(([, count]) => count)).toEqual(
    expect.arrayContaining([1, 2]),
  );
  server.close();
});
