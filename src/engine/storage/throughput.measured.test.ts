import type { StorageProgress } from '@/core/kinds/shared/storage';
import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, rename, rm, symlink, writeFile } from 'node:fs/promises';
import { spawnSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { encodePacketTable, packetTableFrom } from '@/core/media/packetTable';
import { rational } from '@/core/time/rational';
import { dataRate, bytesPerSlot } from '@/core/media/dataRate';
import { nextStreams } from '@/core/storage/ramp';
import { summariseStreams } from '@/core/storage/streams';
import type { Blocks } from '@/core/storage/blocks';
import { stairs } from '@/core/storage/underWay';
import {
  heldBackByHost,
  rateFigures,
  summariseStaircase,
  summariseThroughput,
} from '@/core/storage/throughput';
import { smallTenBit } from '@/demo/smallClips';
import { probeClip } from '../media/probe';
import { writeTestMedia } from '../testing/testMedia';
import { removeTestFiles, testFilePath } from './testFile';
import { namesIn, newFolder, runStorage, steadyModel, throughputSpec } from '../testing/testStorage';
import { smallClip } from '../testing/testTrial';
import { mostRampSteps } from '@/core/storage/limits';

const mebi = 2 ** 20;

test('a read test makes its file, reads it cold block by block, repeats, and removes it', async () => {
  const folder = await newFolder();
  const { end, blocks, cold, writes } = await runStorage(throughputSpec(folder, { repeats: 2 }));
  expect(end.kind).toBe('done');
  expect(blocks.length).toBe(48);
  expect(new Set(blocks.bytes)).toEqual(new Set([mebi]));
  expect([...new Set(blocks.repeat)]).toEqual([0, 1]);
  for (let row = 0; row < blocks.length; row++)
    expect(blocks.endUs[row]!).toBeGreaterThan(blocks.startUs[row]!);
  expect(cold!.method).toMatch(/direct|evicted/);
  expect(cold!.residentAtStart ?? 0).toBeLessThan(0.01);
  expect(writes).toBeNull();
  expect(await namesIn(folder)).toEqual([]);
});

test('a write test writes its bytes, says how, and leaves nothing', async () => {
  const folder = await newFolder();
  const { end, blocks, writes } = await runStorage(
    throughputSpec(folder, { test: 'sequential-write', repeats: 2 }),
  );
  expect(end.kind).toBe('done');
  expect(writes).toMatch(/direct|synchronous/);
  expect([...blocks.write].every((write) => write === 1)).toBe(true);
  expect(blocks.bytes.reduce((sum, bytes) => sum + bytes, 0)).toBe(48 * mebi);
  expect(await namesIn(folder)).toEqual([]);
});

test('random reads jump, and reading while writing does both at once', async () => {
  const folder = await newFolder();
  const random = await runStorage(
    throughputSpec(folder, { test: 'random-read', blockBytes: 4_096, bytes: 2 * mebi }),
  );
  expect(random.blocks.length).toBe(512);
  const mixed = await runStorage(throughputSpec(folder, { test: 'mixed', seconds: 3 }, steadyModel(60)));
  const { read, write } = summariseThroughput(mixed.blocks);
  expect(read!.bytes).toBeGreaterThan(mebi);
  expect(write!.bytes).toBeGreaterThan(mebi);
  // Each began before the other had ended.
  const span = (direction: number) => {
    const rows = [...mixed.blocks.write.keys()].filter((row) => mixed.blocks.write[row] === direction);
    return {
      fromUs: Math.min(...rows.map((row) => mixed.blocks.startUs[row]!)),
      toUs: Math.max(...rows.map((row) => mixed.blocks.endUs[row]!)),
    };
  };
  expect(span(0).fromUs).toBeLessThan(span(1).toUs);
  expect(span(1).fromUs).toBeLessThan(span(0).toUs);
  expect(await namesIn(folder)).toEqual([]);
});

/** The most requests of a record that were under way at one moment. */
function mostUnderWay({ startUs, endUs, length }: Blocks): number {
  const edges = Array.from({ length }, (_, row) => [
    [startUs[row]!, 1],
    [endUs[row]!, -1],
  ]).flat() as [number, number][];
  edges.sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  let now = 0;
  return edges.reduce((most, [, change]) => Math.max(most, (now += change)), 0);
}

test('several requests under way take the blocks by turns, each once, in reading and in writing', async () => {
  const folder = await newFolder();
  // Slow enough that all of them meet.
  const read = await runStorage(throughputSpec(folder, { underWay: 6 }, steadyModel(20)));
  expect(read.end.kind).toBe('done');
  expect(read.blocks.length).toBe(24);
  expect(mostUnderWay(read.blocks)).toBe(6);
  const one = await runStorage(throughputSpec(folder, {}, steadyModel(20)));
  expect(mostUnderWay(one.blocks)).toBe(1);
  const written = await runStorage(throughputSpec(folder, { test: 'sequential-write', underWay: 4 }));
  expect(written.blocks.bytes.reduce((sum, bytes) => sum + bytes, 0)).toBe(24 * mebi);
  expect(await namesIn(folder)).toEqual([]);
});

test('a stand-in serves random reads on as many drives as requests are under way', async () => {
  // Four drives that take 8 ms to get to a place: one request has one of them at work.
  const model = steadyModel(400);
  const disks = { ...model, drives: 4, drive: { ...model.drive, accessUs: 8_000 } };
  const took = async (underWay: number) => {
    const { blocks } = await runStorage(
      throughputSpec(
        await newFolder(),
        { test: 'random-read', blockBytes: 4_096, bytes: mebi / 2, underWay },
        disks,
      ),
    );
    expect(blocks.length).toBe(128);
    return (Math.max(...blocks.endUs) - Math.min(...blocks.startUs)) / 1e6;
  };
  const [alone, together] = [await took(1), await took(16)];
  // 128 places, 8 ms each; by turns on four drives, which chance does not load evenly.
  expect(alone).toBeGreaterThan(128 * 0.008);
  expect(together).toBeLessThan(0.6 * alone);
  expect(together).toBeGreaterThan(0.9 * 32 * 0.008);
});

test('a staircase reads on from step to step, with more requests under way in each', async () => {
  const folder = await newFolder();
  const told: StorageProgress[] = [];
  const { end, blocks } = await runStorage(
    throughputSpec(folder, { test: 'staircase', bytes: 70 * mebi, blockBytes: 2 ** 18, seconds: 5 }),
    (progress) => {
      told.push(progress);
    },
  );
  expect(end.kind).toBe('done');
  const { staircase, repeats } = summariseStaircase(blocks);
  expect(staircase!.steps.map(({ underWay }) => underWay)).toEqual(stairs);
  for (const { read } of repeats) expect(read!.bytes).toBe(10 * mebi);
  // To the watchdog every thread that came up is a step on: on a busy machine so many take their time.
  const written = 72 * mebi;
  const last = told.at(-1)!;
  expect(last.moved - last.bytes - written).toBe(stairs.reduce((sum, threads) => sum + threads, 0));
  expect(stairs).toContain(staircase!.needed);
  expect(await namesIn(folder)).toEqual([]);
});

test('through the system’s cache a file is put out of it before each repeat, and is read once', async () => {
  const folder = await newFolder();
  const { end, blocks, cold } = await runStorage(
    throughputSpec(folder, { cache: 'through', bytes: 24 * mebi, repeats: 2 }),
  );
  expect(end.kind).toBe('done');
  expect(cold!.method).toBe('evicted');
  expect(cold!.residentAtStart).toBeLessThan(0.01);
  expect(blocks.bytes.reduce((sum, bytes) => sum + bytes, 0)).toBe(48 * mebi);
});

test('a time budget ends a repeat that its bytes would not', async () => {
  const { end, blocks } = await runStorage(
    throughputSpec(await newFolder(), { bytes: 64 * mebi, seconds: 1 }, steadyModel(10)),
  );
  expect(end.kind).toBe('done');
  expect(blocks.length).toBeLessThan(16);
});

test('a stand-in gives its rate and not more, from real bytes', async () => {
  const figures = rateFigures(
    (await runStorage(throughputSpec(await newFolder(), { bytes: 40 * mebi }, steadyModel(20)))).blocks,
  )!;
  expect(figures.mean / 20e6).toBeLessThan(1.03); // read-ahead gives 50 ms at the most
  // It has its rate, or says that this machine's disk held it back.
  expect(figures.mean / 20e6 > 0.9 || heldBackByHost(figures)).toBe(true);
});

test('what is small enough comes from the server’s cache when it is read again: the fooled test', async () => {
  // Drives slower than the slowest disk this may run on, so that the cache shows wherever the real bytes lie.
  const model = steadyModel(200, { cache: { bytes: 64e6, bytesPerSecond: 1e9 } });
  const slowDrives = { ...model, drive: { ...model.drive, readBytesPerSecond: 2e6 } };
  const folder = await newFolder();
  const clip = join(folder, 'card.mov');
  await writeFile(clip, Buffer.alloc(8 * mebi, 7));
  // A file of the volume: the first repeat comes from the drives, the second from the cache.
  const { blocks } = await runStorage({
    ...throughputSpec(folder, { clipId: 'x', bytes: 8 * mebi, repeats: 2 }, slowDrives),
    source: { path: clip, packets: encodePacketTable(packetTableFrom([])), rate: rational(1), setup: {} },
  });
  const [first, second] = summariseThroughput(blocks).repeats;
  expect(second!.read!.mean).toBeGreaterThan(first!.read!.mean * 2);
  // A test file larger than the cache: its beginning was written through the server and comes from there, the rest does not.
  const larger = await runStorage(
    throughputSpec(
      folder,
      { bytes: 8 * mebi },
      { ...slowDrives, cache: { bytes: 4 * mebi, bytesPerSecond: 1e9 } },
    ),
  );
  const time = (from: number, to: number) => larger.blocks.endUs[to - 1]! - larger.blocks.startUs[from]!;
  expect(time(0, 3)).toBeLessThan(time(5, 8) / 2);
});

test.each([
  ['full', { kind: 'full', afterBytes: 8 * mebi }, 'sequential-write', /the volume is full\. Free space/],
  ['read-only', { kind: 'read-only' }, 'sequential-write', /the volume is read-only/],
  [
    'read errors',
    { kind: 'read-error', atSeconds: 0 },
    'sequential-read',
    /gave a read error from the device/,
  ],
] as const)(
  'a stand-in that is %s ends the trial with what to do, and nothing is left',
  async (_, fault, test, message) => {
    const folder = await newFolder();
    const { end } = await runStorage(throughputSpec(folder, { test }, steadyModel(100, { fault })));
    expect(end).toMatchObject({ kind: 'failed', message: expect.stringMatching(message) as string });
    expect(await namesIn(folder)).toEqual([]);
  },
);

test('a drop-out stands in the record as one long answer', async () => {
  const { end, blocks } = await runStorage(
    throughputSpec(
      await newFolder(),
      { bytes: 40 * mebi },
      steadyModel(20, { fault: { kind: 'drop-out', atSeconds: 0.5, seconds: 2 } }),
    ),
  );
  expect(end.kind).toBe('done');
  expect(rateFigures(blocks)!.latencyMs.max).toBeGreaterThan(1_900);
});

test('a really full file system ends the trial with its reserve untouched or a clear word', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'navvy-full-'));
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=16m', 'tmpfs', folder]).status === 0;
  try {
    // With or without the right to mount: the volume, or the wish, is too large for the reserve.
    const { end } = await runStorage(
      throughputSpec(folder, { test: 'sequential-write', bytes: mounted ? 8 * mebi : 1e15 }),
    );
    expect(end).toMatchObject({
      kind: 'failed',
      message: expect.stringMatching(/would leave less than the reserve of/) as string,
    });
    expect(await namesIn(folder)).toEqual([]);
  } finally {
    if (mounted) spawnSync('umount', [folder]);
    await rm(folder, { recursive: true, force: true });
  }
});

test('cancelling ends at once and removes what was written, also while the file is still being made', async () => {
  const folder = await newFolder();
  const running = await runStorage(
    throughputSpec(folder, { test: 'sequential-write', bytes: 512 * mebi, seconds: 60 }, steadyModel(10)),
    ({ phase }, host) => {
      if (phase === 'measuring') host.cancel();
    },
  );
  expect(running.end.kind).toBe('cancelled');
  expect(await namesIn(folder)).toEqual([]);
  const preparing = await runStorage(throughputSpec(folder, { bytes: 3e9 }), (_, host) => host.cancel());
  expect(preparing.end.kind).toBe('cancelled');
  expect(await namesIn(folder)).toEqual([]);
});

test('a folder that is pulled away mid-run is named, and nothing is left in it', async () => {
  const folder = await newFolder();
  let pulled = false;
  const { end } = await runStorage(
    throughputSpec(folder, { bytes: 64 * mebi, seconds: 30 }, steadyModel(10)),
    async ({ phase }) => {
      if (phase !== 'measuring' || pulled) return;
      pulled = true;
      await rename(folder, `${folder}-pulled`);
    },
  );
  expect(end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining(`${folder} is not there. Check that the volume is connected`) as string,
  });
  expect(await namesIn(`${folder}-pulled`)).toEqual([]);
});

test('a folder that stands still is a hang, ended by the watchdog', async () => {
  const { end } = await runStorage(
    throughputSpec(
      await newFolder(),
      {},
      steadyModel(50, { fault: { kind: 'drop-out', atSeconds: 0, seconds: 60 } }),
    ),
    undefined,
    2_500,
  );
  expect(end).toMatchObject({
    kind: 'hung',
    message: expect.stringMatching(/No block moved for \d+\ss/) as string,
  });
});

test('leftovers are known by their marker: other files stay, whatever they are called', async () => {
  const folder = await newFolder();
  await writeFile(testFilePath(folder, 'gone', 'read'), 'Navvy test file. It may be removed.\nand more');
  await writeFile(testFilePath(folder, 'cut', 'read'), 'Navvy te');
  await writeFile(testFilePath(folder, 'mine', 'read'), 'my own notes');
  await writeFile(join(folder, 'TW_WALL.mov'), 'Navvy test file. It may be removed.\n');
  expect(await removeTestFiles(folder, 'gone')).toBe(1);
  expect(await removeTestFiles(folder)).toBe(1);
  expect(await namesIn(folder)).toEqual(['.navvy-test-mine-read.tmp', 'TW_WALL.mov']);
});

test('a pipe or a link with the name of a leftover is left, and nobody waits for it', async () => {
  const folder = await newFolder();
  const pipe = testFilePath(folder, 'pipe', 'read');
  await promisify(execFile)('mkfifo', [pipe]);
  await writeFile(join(folder, 'mine'), 'Navvy test file. It may be removed.\n');
  await symlink(join(folder, 'mine'), testFilePath(folder, 'link', 'read'));
  expect(await removeTestFiles(folder)).toBe(0);
  expect(await namesIn(folder)).toHaveLength(3);
});

/** The small clip as a source, and what one stream of it asks for in bytes per second. */
async function clipSource() {
  const path = await smallClip(smallTenBit);
  const { packets, format } = await probeClip(path);
  const demand = dataRate(bytesPerSlot(packets), format.rate);
  return {
    source: { path, packets: encodePacketTable(packets), rate: format.rate, setup: {} },
    demand,
    rate: format.rate.num / format.rate.den,
  };
}

test('frame-paced streams keep the clip’s pace, and a volume that is too slow misses frames', async () => {
  const { source, demand, rate } = await clipSource();
  const run = (megabytes: number) =>
    runStorage({
      ...throughputSpec(
        source.path,
        { test: 'frame-paced', streams: 2, seconds: 3, clipId: 'x' },
        steadyModel(megabytes),
      ),
      source,
      volume: { path: source.path.slice(0, source.path.lastIndexOf('/')), standIn: steadyModel(megabytes) },
    });
  const enough = await run(200);
  expect(enough.end.kind).toBe('done');
  expect(enough.blocks.length).toBe(2 * Math.floor(3 * rate));
  for (const stream of [0, 1])
    expect(enough.blocks.stream.filter((value) => value === stream)).toHaveLength(Math.floor(3 * rate));
  const slow = rateFigures((await run((demand.meanBitsPerSecond / 8e6) * 0.8)).blocks)!; // four fifths of one stream, for two
  expect(slow.missed).toBeGreaterThan(20);
  expect(slow.missed).toBeGreaterThan(rateFigures(enough.blocks)!.missed);
});

test('a sequence is read by its own files, each opened in time, and one that is gone ends the test with its name', async () => {
  const folder = join(await newFolder(), 'plates');
  await mkdir(folder);
  await writeTestMedia(join(folder, 'plate.%04d.dpx'), {
    encoder: 'dpx',
    pixelFormat: 'gbrp10le',
    frames: 12,
  });
  const path = join(folder, 'plate.####.dpx');
  const { packets, format, setup } = await probeClip(path);
  const source = { path, packets: encodePacketTable(packets), rate: format.rate, setup };
  const run = (roundTripUs: number) => {
    const model = steadyModel(500);
    const standIn = { ...model, link: { ...model.link, roundTripUs } };
    return runStorage({
      ...throughputSpec(folder, { test: 'frame-paced', seconds: 2, clipId: 'x' }, standIn),
      source,
    });
  };
  const near = await run(100);
  expect(near.end.kind).toBe('done');
  expect(near.blocks.length).toBe(48);
  expect([...near.blocks.bytes].every((bytes) => bytes === packets.size[0])).toBe(true);
  // A frame needs two answers, and a slot is less than one of them.
  const far = await run(60_000);
  expect(rateFigures(far.blocks)!.missed).toBeGreaterThan(rateFigures(near.blocks)!.missed + 5);
  await rm(join(folder, 'plate.0005.dpx'));
  const gone = await run(100);
  expect(gone.end).toMatchObject({
    kind: 'failed',
    message: expect.stringContaining('plate.0005.dpx') as string,
  });
});

test('a ramp finds how many streams a stand-in carries, and what held it', async () => {
  const { source, demand, rate } = await clipSource();
  const one = demand.meanBitsPerSecond / 8;
  const standIn = steadyModel((one * 3.4) / 1e6);
  const run = await runStorage({
    kind: 'streams-carried',
    trialId: 'ramp',
    volume: { path: source.path.slice(0, source.path.lastIndexOf('/')), standIn },
    settings: { kind: 'streams-carried', clipId: 'x', clipPath: 'x', seconds: 4, mostStreams: 8 },
    source,
  });
  expect(run.end.kind).toBe('done');
  const summary = summariseStreams(run.blocks, run.steps, demand, 1e6 / rate, 8, {
    bytesPerSecond: one * 3.4,
    from: 'model',
    limit: 'link',
  });
  run.steps.forEach((streams, step) => {
    expect(nextStreams(summary.steps.slice(0, step), 8, mostRampSteps)).toBe(streams);
  });
  expect(nextStreams(summary.steps, 8, mostRampSteps)).toBeNull();
  expect(summary.clean).toBeLessThanOrEqual(3);
  // It carries what the model gives, or says that this machine did not.
  expect(summary.clean > 0 || summary.limit === 'this machine').toBe(true);
  expect(summary.missed).toBe(summary.clean + 1);
  expect(summary.arithmetic!.streams).toBe(
    Math.floor((3.4 * demand.meanBitsPerSecond) / demand.peakBitsPerSecond),
  );
  expect(summary.clean < 3 || ['data rate', 'this machine'].includes(summary.limit)).toBe(true);
});
