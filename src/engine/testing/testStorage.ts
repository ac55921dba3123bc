import { mkdir, readdir, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { randomBytes } from 'node:crypto';
import { decodeBlocks, joinBlocks, type Blocks } from '@/core/storage/blocks';
import type { StorageModel } from '@/core/storage/model';
import { modelOf } from '@/core/storage/presets';
import { hear, WatchedProcess, type ProcessEnd } from '@/server/runner/shared/watchedProcess';
import type { FromStorage, StorageSpec } from '../storage/spec';
import { workFolder } from './testTrial';
import type { ColdProof } from '@/core/media/coldProof';
import type { CheckedFile, CopiedFile } from '@/core/storage/copiedFile';
import type { ThroughputSettings } from '@/core/kinds/throughput';
import type { StorageProgress, WriteWay } from '@/core/kinds/shared/storage';

/** Runs real storage processes in folders of their own. */
export interface StorageRun {
  readonly end: ProcessEnd<'storage'>;
  readonly blocks: Blocks;
  readonly files: readonly CopiedFile[];
  readonly checked: readonly CheckedFile[];
  readonly steps: readonly number[];
  readonly cold: ColdProof | null;
  readonly writes: WriteWay | null;
}

/** Called with each report and the running host. */
type During = (progress: StorageProgress, host: WatchedProcess<'storage'>) => void | Promise<void>;

export async function runStorage(
  spec: StorageSpec,
  during?: During,
  watchdogMs = 20_000,
): Promise<StorageRun> {
  const parts: Blocks[] = [];
  const files: CopiedFile[] = [];
  const checked = new Map<string, CheckedFile>();
  const steps: number[] = [];
  let cold: ColdProof | null = null;
  let writes: WriteWay | null = null;
  const host: WatchedProcess<'storage'> = new WatchedProcess(
    'storage',
    join(await workFolder(), 'build', 'storage.mjs'),
    spec,
    {
      watchdogMs,
      onMessage: hear<FromStorage>({
        prepared: (told) => {
          ({ cold, writes } = told);
        },
        blocks: ({ from, data }) => {
          expect(from).toBe(parts.reduce((sum, part) => sum + part.length, 0));
          parts.push(decodeBlocks(data));
        },
        step: ({ streams }) => steps.push(streams),
        copied: ({ file }) => files.push(file),
        checked: ({ file }) => checked.set(file.path, file),
        progress: ({ progress }) => during?.(progress, host),
      }),
    },
  );
  const end = await host.ended;
  return { end, blocks: joinBlocks(parts), files, checked: [...checked.values()], steps, cold, writes };
}

export async function newFolder(name = 'volume'): Promise<string> {
  const folder = join(await workFolder(), `${name}-${randomBytes(4).toString('hex')}`);
  await mkdir(folder);
  return folder;
}

/** All names in a folder, hidden ones included. */
export async function namesIn(folder: string): Promise<string[]> {
  return (await readdir(folder, { recursive: true })).sort();
}

const mebi = 2 ** 20;

/** What the test card holds. */
export const cardContents: Readonly<Record<string, Buffer>> = {
  'A001/clips/wall 01.mov': Buffer.alloc(9 * mebi + 123, 'wall'),
  'A001/clips/wall 02.mov': Buffer.alloc(4 * mebi, 'tide'),
  'A001/index.xml': Buffer.from('<index/>'),
  'A001/empty.txt': Buffer.alloc(0),
};
/** When all of it was shot. */
export const cardShot = new Date('2026-11-24T07:12:40Z');

/** A card with a few files, of known times. */
export async function testCard(): Promise<string> {
  const folder = await newFolder('card');
  for (const [path, content] of Object.entries(cardContents)) {
    await mkdir(dirname(join(folder, path)), { recursive: true });
    await writeFile(join(folder, path), content);
    await utimes(join(folder, path), cardShot, cardShot);
  }
  return folder;
}

const shortTest: ThroughputSettings = {
  kind: 'throughput',
  test: 'sequential-read',
  blockBytes: mebi,
  bytes: 24 * mebi,
  seconds: 20,
  repeats: 1,
  streams: 1,
  clipId: null,
  clipPath: null,
};

export function throughputSpec(
  path: string,
  change: Partial<ThroughputSettings> = {},
  standIn: StorageModel | null = null,
): Extract<StorageSpec, { kind: 'throughput' }> {
  return {
    kind: 'throughput',
    trialId: 'test',
    volume: { path, standIn },
    settings: { ...shortTest, ...change },
    source: null,
  };
}

/** A stand-in that gives so many MB/s each way and answers within a tenth of a millisecond. */
export function steadyModel(megabytes: number, change: Partial<StorageModel> = {}): StorageModel {
  const model = modelOf('ethernet-1', 'nvme');
  return {
    ...model,
    link: {
      ...model.link,
      lineBitsPerSecond: megabytes * 8e6,
      payloadShare: 1,
      roundTripUs: 100,
      depth: 1_000,
    },
    drive: {
      ...model.drive,
      readBytesPerSecond: megabytes * 4e6,
      writeBytesPerSecond: megabytes * 4e6,
      burst: null,
      accessUs: 10,
    },
    ...change,
  };
}
