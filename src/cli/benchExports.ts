import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { ExportSettings } from '@/core/kinds/export';
import { noTaskRecord, type TaskRecord } from '@/core/kinds/shared/task';
import { median } from '@/core/stats/quantiles';
import { encoderTold, exportCodecs, type ExportChoice } from '@/core/tasks/exportCodecs';
import { replayedWork } from '@/core/tasks/heldBack';
import { simulateTask, taskStages, type TaskStage } from '@/core/tasks/pipeline';
import { summariseTask } from '@/core/tasks/taskSummary';
import { sideBySide } from '@/core/timeline/loads';
import { hear, WatchedProcess } from '@/server/runner/shared/watchedProcess';
import { exportWork } from '@/engine/task/exportWork';
import type { FromTask, TaskSpec } from '@/engine/task/spec';
import type { BenchRow } from './bench';
import { mediaAt } from './benchTrials';
import { paths } from './home';

const pairs = 5;
const target = () => join(paths.media, 'bench-exports');

interface Exported {
  readonly record: TaskRecord;
  readonly elapsedMs: number;
}

/** Exports a clip by a task process alone, without database or server. */
async function exportOnce(
  path: string,
  settings: Partial<ExportSettings>,
  change: Partial<Pick<TaskSpec, 'slowed'>> = {},
): Promise<Exported> {
  const { ref, spec } = await mediaAt(path);
  const timeline = sideBySide({ id: 'm', ref }, 1);
  let record = noTaskRecord;
  const host = new WatchedProcess(
    'task',
    join(paths.build, 'task.mjs'),
    {
      trialId: 'bench',
      source: { timeline, media: { m: spec }, looks: {}, course: { from: 0, slots: ref.frames, speed: 1 } },
      ...exportWork({ ...plain, ...settings }),
      target: { path: target(), standIn: null },
      name: 'bench',
      startTimecode: null,
      ...change,
    },
    {
      watchdogMs: 60_000,
      onMessage: hear<FromTask>({
        record: (told) => {
          record = { ...record, ...told.record };
        },
      }),
    },
  );
  const end = await host.ended;
  if (end.kind !== 'done' || !record.made)
    throw new Error(`A bench export ended ${end.kind}: ${'message' in end ? end.message : ''}`);
  return { record, elapsedMs: record.made.elapsedUs / 1000 };
}

const plain: ExportSettings = {
  codec: 'h264',
  picture: '8-bit 4:2:0',
  control: 'quality',
  quality: 22,
  megabits: null,
  rateClass: null,
  keyDistance: null,
  speed: 'fast',
  sound: 'none',
  keep: false,
  likeness: false,
  threads: 0,
  warm: true,
};

const inClass = (codec: 'prores' | 'dnxhr', rateClass: string): Partial<ExportChoice> => ({
  codec,
  picture: '10-bit 4:2:2',
  control: 'class',
  quality: null,
  rateClass,
  speed: null,
});

const choices: readonly Partial<ExportChoice>[] = [
  {},
  { codec: 'hevc', picture: '10-bit 4:2:2' },
  inClass('prores', '3'),
  inClass('dnxhr', 'dnxhr_hqx'),
];

/** Time of the native command line for the same, until all is on the disk, ms. */
function nativeExport(path: string, choice: ExportChoice, rate: Parameters<typeof encoderTold>[1]): number {
  const { encoder, pixelFormat, options, keyDistance } = encoderTold(choice, rate);
  const output = join(target(), `native.${exportCodecs[choice.codec].ending}`);
  const told = Object.entries(options).flatMap(([name, value]) => [
    name.endsWith('-params') ? `-${name}` : `-${name}:v`,
    value,
  ]);
  const begun = performance.now();
  const { status, stderr } = spawnSync(
    'ffmpeg',
    [
      ...['-hide_banner', '-loglevel', 'error', '-y', '-i', path, '-an'],
      ...['-c:v', encoder, '-pix_fmt', pixelFormat, ...told, '-g', String(keyDistance), output],
    ],
    { encoding: 'utf8' },
  );
  spawnSync('sync', [output]);
  const ms = performance.now() - begun;
  if (status !== 0) throw new Error(`The reference encoder failed:\n${stderr.slice(-400)}`);
  return ms;
}

/** Time of the native decoder for a file with a thread for each core, ms. */
function nativeDecode(path: string): number {
  const begun = performance.now();
  spawnSync('ffmpeg', ['-hide_banner', '-loglevel', 'error', '-i', path, '-map', '0:v:0', '-f', 'null', '-']);
  return performance.now() - begun;
}

/** Exports against the native command line with equal settings, and proofs against decoding natively, in turn. */
async function nativeRows(folder: string): Promise<BenchRow[]> {
  const rows: BenchRow[] = [];
  const path = join(folder, 'wall-camera/TW_WALL_0107.mov');
  const { spec } = await mediaAt(path);
  for (const choice of choices) {
    const settings = { ...plain, ...choice };
    const [ratios, proofs]: [number[], number[]] = [[], []];
    for (let pair = 0; pair < pairs; pair++) {
      const native = nativeExport(path, settings, spec.rate);
      const { record, elapsedMs } = await exportOnce(path, settings);
      ratios.push(native / elapsedMs);
      const output = join(target(), `native.${exportCodecs[settings.codec].ending}`);
      proofs.push((record.made?.provingUs ?? Infinity) / 1000 / nativeDecode(output));
    }
    const { name } = exportCodecs[settings.codec];
    const [ratio, proof] = [median(ratios), median(proofs)];
    rows.push(
      {
        name: `export over native: ${name}`,
        value: ratio,
        unit: 'x',
        target: 'at least 0.95',
        met: ratio >= 0.95,
        note: `${pairs} pairs, ${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)}`,
      },
      {
        name: `proof beyond decoding natively: ${name}`,
        value: proof - 1,
        unit: 'of its time',
        target: 'at most 0.25',
        met: proof - 1 <= 0.25,
        note: `${pairs} pairs`,
      },
    );
  }
  return rows;
}

/** Clips that are exported with each stage slowed in turn. */
const slowedClips = [
  'wall-camera/TW_WALL_0107.mov',
  'kite-camera/TW_KITE_0031.mp4',
  'marsh-camera/TW_MARSH_0212.mp4',
  'wall-camera/TW_WALL_0119_UHD.mov',
];

/** Whether the stage that was slowed on purpose is found: by enough that it must be the one. */
async function limiterRow(folder: string): Promise<BenchRow> {
  let right = 0;
  const wrong: string[] = [];
  for (const file of slowedClips) {
    const path = join(folder, file);
    const { elapsedMs, record } = await exportOnce(path, {});
    const us = (2 * elapsedMs * 1000) / (record.made?.frames ?? 1);
    for (const stage of taskStages) {
      const { record: slowed } = await exportOnce(path, {}, { slowed: { stage, us } });
      const found = heldBackOf(slowed);
      if (found === stage) right++;
      else wrong.push(`${file.split('/').at(-1)}: ${stage} taken for ${found}`);
    }
  }
  const cases = slowedClips.length * taskStages.length;
  return {
    name: 'limiter found, stages slowed on purpose',
    value: right,
    unit: `of ${cases}`,
    target: `${cases}`,
    met: right === cases,
    note: wrong.join('; ') || 'each stage held for twice the time of a frame',
  };
}

function heldBackOf(record: TaskRecord): TaskStage | null {
  const { made } = record;
  const summary = made && summariseTask(record, { total: made.frames, rate: { num: 24, den: 1 } });
  return summary?.held?.stage ?? null;
}

/** Encoders that take less, beside the one that a task had: the cure is applied and the export made again. */
async function cureRow(folder: string): Promise<BenchRow> {
  const offs: number[] = [];
  for (const file of slowedClips.slice(0, 3)) {
    const path = join(folder, file);
    const before = await exportOnce(path, { speed: 'balanced' });
    const after = await exportOnce(path, { speed: 'fastest' });
    const predicted = replayedWith(before.record, coresOf(after.record) / coresOf(before.record));
    offs.push(Math.abs(predicted / 1000 / after.elapsedMs - 1));
  }
  const off = median(offs);
  return {
    name: 'time with another encoder, forecast off by',
    value: off * 100,
    unit: '%',
    target: 'at most 15',
    met: off <= 0.15,
    note: `${offs.length} clips, ${offs.map((one) => `${(one * 100).toFixed(0)} %`).join(', ')}`,
  };
}

const coresOf = ({ windows }: TaskRecord) => windows.stages.encode.coreUs.reduce((sum, us) => sum + us, 0);

/** Time of a task with an encoder that takes `share` of what it took, µs. */
function replayedWith({ windows, facts }: TaskRecord, share: number): number {
  const work = facts && replayedWork(windows, facts, windows.endUs.at(-1) ?? 0);
  if (!work) return Number.NaN;
  const { encode } = work.stages;
  return simulateTask({
    ...work,
    stages: { ...work.stages, encode: { ...encode, soloUs: encode.soloUs.map((us) => us * share) } },
  });
}

/** Exports: speed, proof, and whether what is said to have held them back is true. */
export async function exportRows(folder: string): Promise<BenchRow[]> {
  if (existsSync(target())) rmSync(target(), { recursive: true });
  mkdirSync(target(), { recursive: true });
  try {
    return [...(await nativeRows(folder)), await cureRow(folder), await limiterRow(folder)];
  } finally {
    rmSync(target(), { recursive: true, force: true });
  }
}
