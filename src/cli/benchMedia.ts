import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { encodePacketTable } from '@/core/media/packetTable';
import type { DecodePass } from '@/core/decode/result';
import { presetOf, renditionRaster, type RenditionChoice } from '@/core/rendition/presets';
import { median } from '@/core/stats/quantiles';
import { listClips, saveClip } from '@/db/queries/clips';
import { addVolume, removeVolume } from '@/db/queries/volumes';
import {
  frameTimeUs,
  standInDevices,
  type StandInDevice,
  type SupportRow,
  readBackTimeUs,
} from '@/core/decode/standIns';
import { demoClips } from '@/demo/clips';
import { StandInDecoder, standInUnits } from '@/engine/codec/standInDecoder';
import { frameBytes } from '@/engine/codec/window';
import { packetOf } from '@/engine/codec/decoder';
import { evict } from '@/engine/media/coldFile';
import { openMedia } from '@/engine/media/mediaBytes';
import { probeClip } from '@/engine/media/probe';
import { thisRigId } from '@/engine/rig';
import type { FromDecode } from '@/engine/decode/spec';
import { hear, WatchedProcess } from '@/server/runner/shared/watchedProcess';
import type { BenchRow } from './bench';
import { nativeRate, threads } from './benchNative';
import { visitTimes, withPage } from './benchPage';
import { paths } from './home';

const pairs = 3;
const geometricMean = (values: readonly number[]) =>
  Math.exp(values.reduce((sum, value) => sum + Math.log(value), 0) / values.length);

/** A file made of a demo clip that is repeated, in the container of its ending. */
function repeated(folder: string, clip: string, name: string, times: number): string {
  const path = join(paths.media, name);
  const [source] = demoClips.filter(({ file }) => file.includes(clip));
  const made = spawnSync(
    'ffmpeg',
    `-hide_banner -loglevel error -y -stream_loop ${times} -i ${join(folder, source?.file ?? '')} -c copy`
      .split(' ')
      .concat(path),
    { encoding: 'utf8' },
  );
  if (made.status !== 0) throw new Error(`The reference command could not write ${path}:\n${made.stderr}`);
  return path;
}

/** Times of indexing a file and of reading it with dd, both cold, in turn, ms. */
async function indexPairs(path: string): Promise<{ ours: number; theirs: number; bytes: number }> {
  const { size } = statSync(path);
  const [ours, theirs]: [number[], number[]] = [[], []];
  for (let pair = 0; pair < pairs + 2; pair++) {
    await evict(path);
    theirs.push(
      timed(() => {
        spawnSync('dd', [`if=${path}`, 'of=/dev/null', 'bs=4M', 'status=none']);
      }),
    );
    await evict(path);
    const begun = performance.now();
    await probeClip(path);
    ours.push(performance.now() - begun);
  }
  rmSync(path);
  return { ours: median(ours), theirs: median(theirs), bytes: size };
}

const pairsInWords = (bytes: number, ms: number) =>
  `${pairs + 2} cold pairs of ${(bytes / 1e9).toFixed(2)} GB, ${(bytes / 1e3 / ms).toFixed(0)} MB/s`;

/** Indexing of a gigabyte of intra media against reading the same file with dd. */
async function indexRow(folder: string): Promise<BenchRow> {
  const { ours, theirs, bytes } = await indexPairs(repeated(folder, 'TW_WALL_0107.mov', 'bench-long.mov', 5));
  const ratio = theirs / ours;
  return {
    name: 'indexing over reading with dd',
    value: ratio,
    unit: 'x',
    target: 'at least 0.8',
    met: ratio >= 0.8,
    note: pairsInWords(bytes, ours),
  };
}

/** The same of a transport stream, as the time that it takes. */
async function streamIndexRow(folder: string): Promise<BenchRow> {
  const { ours, theirs, bytes } = await indexPairs(repeated(folder, 'TW_KITE_0031.mp4', 'bench-long.ts', 60));
  const ratio = ours / theirs;
  return {
    name: 'indexing a transport stream, times the reading with dd',
    value: ratio,
    unit: 'x',
    target: 'at most 1.3',
    met: ratio <= 1.3,
    note: pairsInWords(bytes, ours),
  };
}

/** Frames of the sequence that is read: uncompressed, 8 MB each. */
const sequenceFrames = 96;

/** Reading a sequence file by file against cat of the same files, both from the drive, in turn. */
async function sequenceRow(): Promise<BenchRow> {
  const folder = join(paths.media, 'bench-sequence');
  mkdirSync(folder, { recursive: true });
  spawnSync(
    'ffmpeg',
    `-hide_banner -loglevel error -y -f lavfi -i testsrc2=s=1920x1080:r=24 -frames:v ${sequenceFrames} -pix_fmt gbrp10le`
      .split(' ')
      .concat(join(folder, 'frame.%04d.dpx')),
  );
  const files = readdirSync(folder).map((name) => join(folder, name));
  const path = join(folder, 'frame.####.dpx');
  const clip = await probeClip(path);
  const ratios: number[] = [];
  for (let pair = 0; pair < pairs + 2; pair++) {
    for (const file of files) await evict(file);
    const theirs = timed(() => {
      spawnSync('cat', files, { stdio: ['ignore', 'ignore', 'inherit'] });
    });
    const bytes = await openMedia({ path, ...clip }, 'past');
    const begun = performance.now();
    for (let row = 0; row < clip.packets.length; row++)
      await bytes.read(clip.packets.offset[row] as number, clip.packets.size[row] as number);
    ratios.push(theirs / (performance.now() - begun));
    await bytes.close();
  }
  rmSync(folder, { recursive: true });
  const ratio = median(ratios);
  return {
    name: 'reading a sequence over cat of its files',
    value: ratio,
    unit: 'x',
    target: 'at least 0.95',
    met: ratio >= 0.95,
    note: `${ratios.length} cold pairs of ${sequenceFrames} files, ${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)}`,
  };
}

const waitingSeconds = 4;

/** What a stand-in device's decoder takes of a core while it gives frames at its own times, and does nothing else. */
async function waitingRow(): Promise<BenchRow> {
  const [device] = standInDevices as [StandInDevice, ...StandInDevice[]];
  const [line] = device.supports as [SupportRow, ...SupportRow[]];
  const frameUs = frameTimeUs(device, line, { width: 1920, height: 1080 });
  const decoder = new StandInDecoder({
    device,
    units: standInUnits(),
    scaleUs: null,
    readBackUs: readBackTimeUs(
      device,
      frameBytes({ width: 1920, height: 1080, bitDepth: 8, chroma: '4:2:0' }),
    ),
    frameUs,
    heldBack: 0,
    pictures: { pictureOf: () => undefined },
  });
  const packet = packetOf(Buffer.alloc(1), 0, true);
  const [cpu, begun] = [process.cpuUsage(), performance.now()];
  let frames = 0;
  for (; performance.now() - begun < waitingSeconds * 1_000; frames++) {
    await decoder.send(packet);
    (await decoder.receive())?.free();
  }
  const wallMs = performance.now() - begun;
  const { user, system } = process.cpuUsage(cpu);
  packet.free();
  const share = (user + system) / 1_000 / wallMs;
  const rate = (frames * 1_000) / wallMs;
  return {
    name: 'a device stand-in’s waiting, of a core',
    value: share * 100,
    unit: '%',
    target: 'under 5',
    met: share < 0.05,
    note: `${frames} frames at ${rate.toFixed(1)}/s, its model gives ${(1e6 / frameUs).toFixed(1)}/s`,
  };
}

function timed(work: () => void): number {
  const begun = performance.now();
  work();
  return performance.now() - begun;
}

/** Frames per second of a decode trial's pass, its start counted as the native decoder's is. */
async function decodeTrialRate(path: string): Promise<number> {
  const probed = await probeClip(path);
  let pass: DecodePass | null = null;
  const host = new WatchedProcess(
    'decode',
    join(paths.build, 'decode.mjs'),
    {
      path,
      setup: probed.setup,
      format: probed.format,
      packets: encodePacketTable(probed.packets),
      cores: 'all',
      settings: { kind: 'decode-rate', passSeconds: 4, passes: 1 },
    },
    {
      watchdogMs: 30_000,
      onMessage: hear<FromDecode>({
        pass: (told) => {
          ({ pass } = told);
        },
      }),
    },
  );
  await host.ended;
  const { frames = 0, firstFrameUs = 0, spanUs = Infinity } = (pass as DecodePass | null) ?? {};
  return frames / ((firstFrameUs + spanUs) / 1e6);
}

/** A decode trial of a file over the native command line, in turn. @param least what is asked; null: nothing of this file alone */
export async function decodeTrialRow(
  name: string,
  path: string,
  frames: number,
  least: number | null,
): Promise<BenchRow> {
  const ratios: number[] = [];
  for (let pair = 0; pair < pairs; pair++)
    ratios.push((await decodeTrialRate(path)) / nativeRate(path, frames));
  const value = median(ratios);
  return {
    name: `decode trial over native: ${name}`,
    value,
    unit: 'x',
    target: least === null ? '' : `at least ${least}`,
    met: least === null || value >= least,
    note: `${pairs} pairs, ${threads} threads, ${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)}`,
  };
}

/** The geometric mean of ratios. @param least what is asked of it */
export function meanRow(name: string, rows: readonly BenchRow[], least: number): BenchRow {
  const value = geometricMean(rows.map((row) => row.value));
  return {
    name,
    value,
    unit: 'x',
    target: `at least ${least}`,
    met: value >= least,
    note: 'geometric mean',
  };
}

async function decodeRows(folder: string): Promise<BenchRow[]> {
  const rows: BenchRow[] = [];
  for (const { file, frames } of demoClips)
    rows.push(await decodeTrialRow(file.split('/').at(-1) ?? file, join(folder, file), frames, null));
  return [...rows, meanRow('decode trial over native, all demo formats', rows, 0.95)];
}

const renditions: readonly (readonly [string, RenditionChoice])[] = [
  ['wall-camera/TW_WALL_0107.mov', { presetId: 'prores-proxy', raster: 'half' }],
  ['kite-camera/TW_KITE_0031.mp4', { presetId: 'h264-long', raster: 'half' }],
  ['marsh-camera/TW_MARSH_0212.mp4', { presetId: 'mjpeg', raster: 'half' }],
  ['kite-camera/TW_KITE_0031.mp4', { presetId: 'dnxhr-lb', raster: 'full' }],
];

/** Making a rendition, without its check, against the native command line with equal settings, in turn. */
async function renditionRows(folder: string): Promise<BenchRow[]> {
  const rows: BenchRow[] = [];
  for (const [file, choice] of renditions) {
    const ratios: number[] = [];
    for (let pair = 0; pair < pairs; pair++) ratios.push(await renditionRatio(join(folder, file), choice));
    rows.push({
      name: `rendition over native: ${presetOf(choice.presetId).name}, ${choice.raster}`,
      value: median(ratios),
      unit: 'x',
      target: '',
      met: true,
      note: `${file.split('/').at(-1)}, ${pairs} pairs, ${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)}`,
    });
  }
  return [...rows, meanRow('rendition over native', rows, 0.9)];
}

async function renditionRatio(sourcePath: string, choice: RenditionChoice): Promise<number> {
  const { encoder, options, keyInterval } = presetOf(choice.presetId);
  const probed = await probeClip(sourcePath);
  const [outputPath, nativePath] = ['ours', 'native'].map((name) =>
    join(paths.media, `bench-${name}.mov`),
  ) as [string, string];
  const host = new WatchedProcess(
    'rendition',
    join(paths.build, 'rendition.mjs'),
    {
      sourcePath,
      outputPath,
      ...choice,
      rate: probed.format.rate,
      frames: probed.frames,
      identity: probed.identity,
      startTimecode: probed.startTimecode,
      threads: 0,
      sampleFrames: probed.frames,
    },
    { watchdogMs: 60_000, onMessage: () => undefined },
  );
  const end = await host.ended;
  const work = end.kind === 'done' ? end.last.work : null;
  if (!work) throw new Error(`A bench rendition ended ${end.kind}.`);
  const { width, height } = renditionRaster(probed.format, choice);
  const named = Object.entries(options)
    .filter(([name]) => !name.endsWith('-params'))
    .flatMap(([name, value]) => [`-${name}:v`, value]);
  const gop = keyInterval ?? Math.round(probed.format.rate.num / probed.format.rate.den);
  const native = timed(() => {
    spawnSync('ffmpeg', [
      '-hide_banner',
      '-loglevel',
      'error',
      '-y',
      '-i',
      sourcePath,
      ...(choice.raster === 'full' ? [] : ['-vf', `scale=${width}:${height}`]),
      '-c:v',
      encoder,
      '-pix_fmt',
      work.pixelFormat,
      ...named,
      '-g',
      String(gop),
      ...(keyInterval === 1 ? ['-bf', '0'] : []),
      '-c:a',
      'copy',
      '-movflags',
      '+faststart',
      nativePath,
    ]);
  });
  for (const path of [outputPath, nativePath]) if (existsSync(path)) rmSync(path);
  return native / (work.wallUs / 1000);
}

const manyClips = 5_000;

const benchVolume = 'volume-bench-library';

/** Adds thousands of clips, all like the first of the demo's. */
async function seedLibrary(): Promise<void> {
  const rigId = await thisRigId();
  await removeVolume(benchVolume);
  const [like] = await listClips(rigId);
  if (!like) throw new Error('The bench needs the demo clips.');
  const { volumeName: _name, volumePath, volumeStandIn: _standIn, ...row } = like;
  await addVolume({
    id: benchVolume,
    rigId,
    name: 'Bench library',
    kind: 'internal',
    path: join(volumePath, 'bench'),
    facts: {
      fileSystem: 'ext4',
      device: 'none',
      mountPoint: '/',
      sizeBytes: 1,
      freeBytes: 1,
      rotational: null,
      writable: true,
    },
  });
  for (let number = 0; number < manyClips; number++)
    await saveClip(
      {
        ...row,
        id: `bench-clip-${number}`,
        volumeId: benchVolume,
        path: `day ${number % 40}/TW_BENCH_${String(number).padStart(5, '0')}.mov`,
        contentHash: null,
        footageId: null,
      },
      null,
    );
}

/** Opens a library of thousands of clips and filters it. */
export function libraryRows(folder: string): Promise<BenchRow[]> {
  return withPage(
    folder,
    seedLibrary,
    () => removeVolume(benchVolume),
    async ({ page, address }) => {
      const opened = await visitTimes(
        page,
        `${address}/media`,
        () => page.getByText(/^5.0\d\d rows, /).waitFor(),
        pairs,
      );
      await page.waitForTimeout(1_000);
      const filtered: number[] = [];
      for (const number of ['04999', '00017', '02500']) {
        const typed = performance.now();
        await page.getByLabel('Filter Clips').fill(number);
        await page.getByText('1 row, 1 file').waitFor();
        filtered.push(performance.now() - typed);
        await page.getByLabel('Filter Clips').fill('');
        await page.getByText(/^5.0\d\d rows, /).waitFor();
      }
      return [
        {
          name: `library of ${manyClips} clips, usable after`,
          value: median(opened),
          unit: 'ms',
          target: 'under 1000',
          met: median(opened) < 1_000,
          note: `median of ${pairs} visits`,
        },
        {
          name: 'filtering it',
          value: median(filtered),
          unit: 'ms',
          target: 'under 200',
          met: median(filtered) < 200,
          note: `from the last key to the row, median of ${filtered.length}`,
        },
      ];
    },
  );
}

/** Speeds of the media section. */
export async function mediaRows(folder: string): Promise<BenchRow[]> {
  return [
    await indexRow(folder),
    await streamIndexRow(folder),
    await sequenceRow(),
    ...(await decodeRows(folder)),
    await waitingRow(),
    ...(await renditionRows(folder)),
  ];
}
