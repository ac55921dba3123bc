import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { intraGraph, uniformWork } from '@/core/playback/work';
import { simulate } from '@/core/playback/simulate';
import { median } from '@/core/stats/quantiles';
import { rational } from '@/core/time/rational';
import { demoClips } from '@/demo/clips';
import { buildApp } from './buildApp';
import { decideRows } from './benchDecide';
import { edgeRows } from './benchEdge';
import { exportRows } from './benchExports';
import { formatRows } from './benchFormats';
import { listRows } from './benchLists';
import { libraryRows, mediaRows } from './benchMedia';
import { nativeRate, threads } from './benchNative';
import { bareTimerP99 } from './benchPacing';
import { visitTimes, withPage } from './benchPage';
import { overloadRows } from './benchOverload';
import { soakRows } from './benchSoak';
import { storageRows } from './benchStorage';
import { truthRows } from './benchTruth';
import { timelineRows } from './benchTimeline';
import { benchTrial, removeLongTrial, seedLongTrial } from './benchTrials';
import { CliError, home, paths, prepareHome } from './home';
import { generateDemoMedia } from './seed';

/** One measured figure against what it should be. */
export interface BenchRow {
  readonly name: string;
  readonly value: number;
  readonly unit: string;
  readonly target: string;
  readonly met: boolean;
  readonly note: string;
}

const repeats = 5;
const demoFrameRate = 24;

/** Engine against native decoding, interleaved A B A B on the same file and threads. */
async function decodeRows(folder: string): Promise<BenchRow[]> {
  const rows: BenchRow[] = [];
  for (const clip of demoClips) {
    const path = join(folder, clip.file);
    const ratios: number[] = [];
    for (let pair = 0; pair < repeats; pair++) {
      const { summary, wallUs } = await benchTrial(
        path,
        { policy: 'every-frame', processing: false, threads, warm: true },
        0,
      );
      const engine = summary.slots / (wallUs / 1e6);
      ratios.push(engine / nativeRate(path, clip.frames));
    }
    const ratio = median(ratios);
    rows.push({
      name: `decode rate, engine over native: ${clip.file.split('/').at(-1)}`,
      value: ratio,
      unit: 'x',
      target: 'at least 0.9',
      met: ratio >= 0.9,
      note: `${repeats} pairs, ${threads} threads, ${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)}`,
    });
  }
  return rows;
}

/** Pacing and the cost of somebody watching, on the lightest demo clip. */
async function playbackRows(folder: string): Promise<BenchRow[]> {
  const proxy = join(folder, demoClips.find(({ file }) => file.includes('proxy'))?.file ?? '');
  const off: Awaited<ReturnType<typeof benchTrial>>[] = [];
  const on: typeof off = [];
  const bare: number[] = [];
  for (let pair = 0; pair < repeats; pair++) {
    off.push(await benchTrial(proxy, {}, 0));
    on.push(await benchTrial(proxy, {}, 1));
    const last = off.at(-1);
    if (last) bare.push(await bareTimerP99(last.summary.slots, 1000 / demoFrameRate));
  }
  const timer = median(bare);
  const p99 = median(off.map(({ summary }) => summary.pacingMs?.p99 ?? Number.NaN));
  const load = (runs: typeof off) => median(runs.map(({ cpuUs, wallUs }) => cpuUs / wallUs));
  const drops = (runs: typeof off) => median(runs.map(({ summary }) => summary.dropped));
  const share = load(on) - load(off);
  return [
    {
      name: 'pacing error p99, light clip',
      value: p99,
      unit: 'ms',
      target: timer <= 1 ? 'at most 1' : 'as the timer',
      met: p99 <= Math.max(1, timer),
      note: `${repeats} runs of ${off[0]?.summary.slots} slots; a bare timer loop in turn with them: ${timer.toFixed(2)} ms`,
    },
    {
      name: 'drops, live view on minus off',
      value: drops(on) - drops(off),
      unit: 'slots',
      target: '0',
      met: drops(on) === drops(off),
      note: `${repeats} pairs`,
    },
    {
      name: 'processor load, live view on minus off',
      value: share * 100,
      unit: '% of a core',
      target: 'at most 3',
      met: share <= 0.03,
      note: `${(load(off) * 100).toFixed(1)} % off, ${(load(on) * 100).toFixed(1)} % on`,
    },
  ];
}

function simulatorRow(): BenchRow {
  const work = uniformWork(intraGraph(86_400), rational(24), { read: 9_000, decode: 24_000, process: 9_000 });
  const times = Array.from({ length: 7 }, () => {
    const begun = performance.now();
    simulate(work);
    return performance.now() - begun;
  });
  const ms = median(times);
  return {
    name: 'simulator, one hour at 24 per second',
    value: ms,
    unit: 'ms',
    target: 'under 100',
    met: ms < 100,
    note: 'median of 7',
  };
}

/** Opens a result of 100 000 slots in a browser; times its first drawing, and every frame while it zooms and pans. */
function resultPageRows(): Promise<BenchRow[]> {
  return withPage(
    join(paths.media, 'edit-room-internal'),
    seedLongTrial,
    ({ id }) => removeLongTrial(id),
    async ({ seeded: { id, slots }, page, address }) => {
      const opened = await visitTimes(
        page,
        `${address}/trials/${id}`,
        () => page.getByTestId('readout').getByText(/slot/).first().waitFor(),
        repeats,
      );
      const frames = await frameTimes(page);
      const worst = Math.max(...frames);
      return [
        {
          name: `result page of ${slots} slots, usable after`,
          value: median(opened),
          unit: 'ms',
          target: 'under 1000',
          met: median(opened) < 1000,
          note: `median of ${repeats} visits`,
        },
        {
          name: 'slowest frame while zooming and panning',
          value: worst,
          unit: 'ms',
          target: 'at most 50',
          met: worst <= 50,
          note: `${frames.length} frames`,
        },
      ];
    },
  );
}

/** Times between animation frames while the wheel zooms in and out and the pointer pans. */
async function frameTimes(page: Page): Promise<number[]> {
  const box = await page.getByRole('slider', { name: 'Ribbon of slots' }).boundingBox();
  if (!box) throw new Error('The ribbon is not on the page.');
  // As text: the script loader's helpers do not exist in the page.
  await page.evaluate(
    'window.frames_ = []; { let last = performance.now(); requestAnimationFrame(function tick(now) { window.frames_.push(now - last); last = now; requestAnimationFrame(tick); }); }',
  );
  await page.mouse.move(box.x + box.width / 2, box.y + 40);
  for (let step = 0; step < 40; step++) await page.mouse.wheel(0, step < 20 ? -150 : 150);
  await page.mouse.down();
  for (let step = 0; step < 40; step++)
    await page.mouse.move(box.x + box.width / 2 + Math.sin(step / 4) * 300, box.y + 40);
  await page.mouse.up();
  return page.evaluate<number[]>('window.frames_.slice(2)');
}

const parts: Readonly<Record<string, (mediaFolder: string) => Promise<BenchRow[]>>> = {
  simulator: () => Promise.resolve([simulatorRow()]),
  storage: storageRows,
  playback: playbackRows,
  decode: decodeRows,
  media: mediaRows,
  formats: formatRows,
  library: libraryRows,
  timeline: timelineRows,
  overload: overloadRows,
  lists: listRows,
  decide: decideRows,
  exports: exportRows,
  soak: soakRows,
  truth: truthRows,
  page: resultPageRows,
  edge: edgeRows,
};

/**
 * Measures Navvy's own speed and prints a table, then JSON. Ratios come from one
 * run on one machine. With names of parts as arguments only those are measured.
 */
export async function runBench(): Promise<void> {
  const named = process.argv.slice(3);
  const unknown = named.find((name) => !Object.hasOwn(parts, name));
  if (unknown !== undefined)
    throw new CliError(
      `There is no bench part "${unknown}". Name some of: ${Object.keys(parts).join(', ')}.`,
    );
  prepareHome();
  const folder = await generateDemoMedia();
  await buildApp();
  const rows: BenchRow[] = [];
  for (const [name, measure] of Object.entries(parts)) {
    if (named.length > 0 && !named.includes(name)) continue;
    const found = await measure(folder);
    rows.push(...found);
    printRows(found);
  }
  const report = join(home, 'bench.json');
  writeFileSync(report, JSON.stringify(rows, null, 2));
  process.stdout.write(`${JSON.stringify(rows)}\n`);
  process.exit(0);
}

function printRows(rows: readonly BenchRow[]): void {
  for (const { name, value, unit, target, met, note } of rows) {
    process.stdout.write(
      `${name.padEnd(62)}  ${value.toFixed(2).padStart(8)} ${unit.padEnd(11)}  ${target.padEnd(12)}  ${met ? 'met' : 'MISSED'}  ${note}\n`,
    );
  }
}
