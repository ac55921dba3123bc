import { spawnSync } from 'node:child_process';
import { closeSync, mkdirSync, openSync, rmSync, writeSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { encodePacketTable, packetTableFrom } from '@/core/media/packetTable';
import { decodeBlocks, joinBlocks, type Blocks } from '@/core/storage/blocks';
import type { StorageModel } from '@/core/storage/model';
import { modelOf } from '@/core/storage/presets';
import { rateFigures } from '@/core/storage/throughput';
import { median, quantiles } from '@/core/stats/quantiles';
import { rational } from '@/core/time/rational';
import { processorTimeOf } from '@/engine/rig';
import { alignedBuffer } from '@/engine/media/coldFile';
import { fillTestBlock } from '@/engine/storage/testFile';
import type { FromStorage } from '@/engine/storage/spec';
import { hear, WatchedProcess } from '@/server/runner/shared/watchedProcess';
import type { BenchRow } from './bench';
import { home, paths } from './home';
import type { ThroughputSettings } from '@/core/kinds/throughput';

const fileBytes = 512 * 2 ** 20;
/** A larger block goes to the device in as many pieces as its memory has, which differs between processes. */
const blockBytes = 2 ** 19;
const pairs = 31;
/** Whether a request's answer arrives on the processor that waits for it matters more than anything compared here: all wait on this one. */
const waitingCore = '0';

interface StorageRun {
  readonly blocks: Blocks;
  readonly cpuUs: number;
  readonly seconds: number;
}

/** Runs one throughput trial by itself, without database or server. */
async function benchThroughput(
  folder: string,
  standIn: StorageModel | null,
  change: Partial<ThroughputSettings>,
  sourcePath: string | null = null,
): Promise<StorageRun> {
  const parts: Blocks[] = [];
  let cpuBegan: number | null = null;
  let cpuUs = 0;
  const settings: ThroughputSettings = {
    kind: 'throughput',
    test: 'sequential-read',
    blockBytes,
    bytes: fileBytes,
    seconds: 60,
    repeats: 1,
    streams: 1,
    clipId: null,
    clipPath: null,
    ...change,
  };
  const oneAtATime = (settings.underWay ?? 1) === 1;
  const pin = (cores: string) => spawnSync('taskset', ['-cp', cores, String(host.pid)]);
  const host: WatchedProcess<'storage'> = new WatchedProcess(
    'storage',
    join(paths.build, 'storage.mjs'),
    {
      kind: 'throughput',
      trialId: 'bench',
      volume: { path: folder, standIn },
      settings,
      source:
        sourcePath === null
          ? null
          : {
              path: sourcePath,
              packets: encodePacketTable(packetTableFrom([])),
              rate: rational(1),
              setup: {},
            },
    },
    {
      watchdogMs: 60_000,
      onMessage: hear<FromStorage>({
        blocks: ({ data }) => parts.push(decodeBlocks(data)),
        progress: ({ progress: { phase } }) => {
          if (phase !== 'measuring' || host.pid === null) return;
          if (cpuBegan === null && oneAtATime) pin(`0-${availableParallelism() - 1}`); // its thread that reads or writes stays where it began
          const now = processorTimeOf(host.pid);
          if (now === null) return;
          cpuBegan ??= now;
          cpuUs = now - cpuBegan;
        },
      }),
    },
  );
  // Several at a time are waited for by a thread each, wherever there is room.
  if (oneAtATime) pin(waitingCore);
  const end = await host.ended;
  if (end.kind !== 'done')
    throw new Error(`A bench trial ended ${end.kind}: ${'message' in end ? end.message : ''}`);
  const blocks = joinBlocks(parts);
  return { blocks, cpuUs, seconds: rateFigures(blocks)?.seconds ?? 0 };
}

/** Bytes and seconds that dd states for a copy. */
function dd(args: readonly string[]): { bytes: number; seconds: number } {
  const { stderr, status } = spawnSync('taskset', ['-c', waitingCore, 'dd', ...args, `bs=${blockBytes}`], {
    encoding: 'utf8',
    env: { ...process.env, LC_ALL: 'C' },
  });
  const [, bytes, seconds] = /(\d+) bytes.* copied, ([\d.e-]+) s/.exec(stderr) ?? [];
  if (status !== 0 || !bytes || !seconds) throw new Error(`dd failed: ${stderr}`);
  return { bytes: Number(bytes), seconds: Number(seconds) };
}

function ddReadRate(path: string): number {
  const { bytes, seconds } = dd([`if=${path}`, 'of=/dev/null', 'iflag=direct']);
  return bytes / seconds;
}

/** dd fills each block before it writes it; the time that takes is no writing and is taken off. */
function ddWriteRate(path: string): number {
  const count = `count=${Math.ceil(fileBytes / blockBytes)}`;
  const { bytes, seconds } = dd(['if=/dev/zero', `of=${path}`, 'oflag=direct', count]);
  rmSync(path);
  return bytes / (seconds - dd(['if=/dev/zero', 'of=/dev/null', count]).seconds);
}

const meanRate = (run: StorageRun) => rateFigures(run.blocks)?.mean ?? Number.NaN;

/** A file of incompressible bytes, written past nothing in particular. */
function writeFile(path: string, bytes = fileBytes): void {
  const block = alignedBuffer(blockBytes);
  fillTestBlock(block);
  const file = openSync(path, 'w');
  for (let at = 0; at < bytes; at += blockBytes) writeSync(file, block);
  closeSync(file);
}

/** Does two things one after the other, and in the other order every second time, so that neither is always the second. */
async function inTurn(
  turn: number,
  one: () => Promise<number>,
  other: () => number,
): Promise<[number, number]> {
  if (turn % 2 === 0) {
    const first = await one();
    return [first, other()];
  }
  const first = other();
  return [await one(), first];
}

/** Lower quartile, median and upper quartile in MB/s. */
function span(bytesPerSecond: readonly number[]): string {
  return quantiles(bytesPerSecond, [0.25, 0.5, 0.75])
    .map((rate) => (rate / 1e6).toFixed(0))
    .join(' ');
}

/** Navvy against dd, interleaved A B A B in the same folder with the same block size. */
async function againstDd(folder: string): Promise<{ rows: BenchRow[]; readRate: number }> {
  const file = join(folder, 'reference.bin');
  writeFile(file);
  const rates = {
    read: { ours: [] as number[], theirs: [] as number[] },
    write: { ours: [] as number[], theirs: [] as number[] },
  };
  const ours = {
    read: async () => meanRate(await benchThroughput(folder, null, {}, file)),
    write: async () => meanRate(await benchThroughput(folder, null, { test: 'sequential-write' })),
  };
  const theirs = { read: () => ddReadRate(file), write: () => ddWriteRate(join(folder, 'dd.bin')) };
  for (let pair = 0; pair < pairs; pair++) {
    for (const way of ['read', 'write'] as const) {
      const [our, their] = await inTurn(pair, ours[way], theirs[way]);
      rates[way].ours.push(our);
      rates[way].theirs.push(their);
    }
  }
  // A device has slow and fast spells: a pair may meet both, so the medians are compared and not the pairs.
  const row = (way: 'read' | 'write', within: number): BenchRow => {
    const value = median(rates[way].ours) / median(rates[way].theirs);
    return {
      name: `sequential ${way}, Navvy over dd ${way === 'read' ? 'iflag' : 'oflag'}=direct`,
      value,
      unit: 'x',
      target: `within ${within * 100} %`,
      met: Math.abs(value - 1) <= within,
      note: `${pairs} pairs; quartiles in MB/s ${span(rates[way].ours)} and ${span(rates[way].theirs)}`,
    };
  };
  return { rows: [row('read', 0.03), row('write', 0.05)], readRate: median(rates.read.ours) };
}

const manyUnderWay = 16;
const manyPairs = 9;
const manyBytes = 2 ** 30;

/** Bytes per second of the reference reader for requests under way: so many at a time by one process, past the cache. */
function fioRate(path: string, test: 'sequential-read' | 'random-read', block: number): number {
  const { stdout, status, stderr } = spawnSync(
    'fio',
    [
      '--name=reference',
      `--filename=${path}`,
      `--rw=${test === 'random-read' ? 'randread' : 'read'}`,
      `--bs=${block}`,
      '--direct=1',
      '--ioengine=libaio',
      `--iodepth=${manyUnderWay}`,
      ...(test === 'random-read' ? ['--time_based', `--runtime=${randomSeconds}`] : []),
      '--output-format=json',
    ],
    { encoding: 'utf8', maxBuffer: 2 ** 26 },
  );
  if (status !== 0) throw new Error(`fio failed: ${stderr}`);
  const told = JSON.parse(stdout.slice(stdout.indexOf('{'))) as { jobs: { read: { bw_bytes: number } }[] };
  return told.jobs[0]?.read.bw_bytes ?? Number.NaN;
}
const randomSeconds = 2;

/** Sixteen requests under way against the reference reader with the same pattern, in turn on the same file. */
async function againstFio(folder: string): Promise<BenchRow[]> {
  const file = join(folder, 'many.bin');
  writeFile(file, manyBytes);
  const rows: BenchRow[] = [];
  for (const [test, block] of [
    ['sequential-read', 2 ** 20],
    ['random-read', 2 ** 16],
  ] as const) {
    const [ours, theirs]: [number[], number[]] = [[], []];
    const change = {
      test,
      underWay: manyUnderWay,
      blockBytes: block,
      bytes: manyBytes,
      ...(test === 'random-read' ? { seconds: randomSeconds, bytes: 2 ** 40 } : {}),
    };
    for (let pair = 0; pair < manyPairs; pair++) {
      const [our, their] = await inTurn(
        pair,
        async () => meanRate(await benchThroughput(folder, null, change, file)),
        () => fioRate(file, test, block),
      );
      ours.push(our);
      theirs.push(their);
    }
    const value = median(ours) / median(theirs);
    rows.push({
      name: `${test === 'random-read' ? 'random' : 'sequential'} read, ${manyUnderWay} requests under way, Navvy over fio`,
      value,
      unit: 'x',
      target: 'within 3 %',
      met: Math.abs(value - 1) <= 0.03,
      note: `${manyPairs} pairs; quartiles in MB/s ${span(ours)} and ${span(theirs)}`,
    });
  }
  rmSync(file);
  return rows;
}

/** How faithful throughput trials and stand-ins are, in a folder that goes afterwards. */
export async function storageRows(): Promise<BenchRow[]> {
  const folder = join(home, 'bench-storage');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  try {
    const { rows, readRate } = await againstDd(folder);
    return [...rows, ...(await againstFio(folder)), ...(await standInRows(folder, readRate))];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** A stand-in that delivers exactly so many bytes per second: the link sets the rate. */
function linkOf(bytesPerSecond: number): StorageModel {
  const model = modelOf('ethernet-1', 'nvme');
  const fast = Math.max(1, bytesPerSecond * 4);
  return {
    ...model,
    link: {
      ...model.link,
      lineBitsPerSecond: bytesPerSecond * 8,
      payloadShare: 1,
      roundTripUs: 100,
      depth: 1_000,
    },
    drive: { ...model.drive, readBytesPerSecond: fast, writeBytesPerSecond: fast },
  };
}

/** Rates from 1 MB/s to four fifths of what the machine has just delivered. */
async function standInRows(folder: string, machine: number): Promise<BenchRow[]> {
  const rows: BenchRow[] = [];
  for (const rate of [1e6, 20e6, 120e6, 400e6, machine * 0.8]) {
    const seconds = 6;
    const run = await benchThroughput(folder, linkOf(rate), {
      bytes: Math.max(8 * 2 ** 20, Math.min(2 ** 30, Math.round(rate * seconds))),
      seconds: seconds * 1.5,
      blockBytes: rate < 10e6 ? 65_536 : 2 ** 20,
    });
    const value = meanRate(run) / rate;
    rows.push({
      name: `stand-in of ${(rate / 1e6).toFixed(0)} MB/s, delivered over modelled`,
      value,
      unit: 'x',
      target: 'within 2 %',
      met: Math.abs(value - 1) <= 0.02,
      note: `${run.seconds.toFixed(1)} s`,
    });
    if (rate <= 20e6) {
      const share = run.cpuUs / 1e6 / run.seconds;
      rows.push({
        name: `  its process while it waits`,
        value: share * 100,
        unit: '% of a core',
        target: 'under 5',
        met: share < 0.05,
        note: 'the whole process, reading and reporting included',
      });
    }
  }
  return rows;
}
