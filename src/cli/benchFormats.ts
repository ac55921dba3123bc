import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median } from '@/core/stats/quantiles';
import { formatSamples } from '@/engine/__tests__/formatSamples';
import { writeTestMedia } from '@/engine/__tests__/testMedia';
import type { BenchRow } from './bench';
import { decodeTrialRate, geometricMean } from './benchMedia';
import { nativeRate, threads } from './benchNative';

const pairs = 3;
/** As large as takes a decoder some time; samples of a fixed raster keep theirs. */
const raster = { width: 1280, height: 720 };
const frames = 120;

/** Decode trials over the native command line, for each codec of the table of formats. */
export async function formatRows(): Promise<BenchRow[]> {
  const folder = mkdtempSync(join(tmpdir(), 'navvy-bench-'));
  const rows: BenchRow[] = [];
  try {
    for (const [at, [name, ending, media]] of formatSamples.entries()) {
      const path = join(folder, `sample-${at}.${ending}`);
      const size = ending === 'dv' ? {} : raster;
      await writeTestMedia(path, { ...media, ...size, frames });
      const ratios: number[] = [];
      for (let pair = 0; pair < pairs; pair++)
        ratios.push((await decodeTrialRate(path)) / nativeRate(path, frames));
      rmSync(path);
      const ratio = median(ratios);
      rows.push({
        name: `decode trial over native: ${name}`,
        value: ratio,
        unit: 'x',
        target: 'at least 0.95',
        met: ratio >= 0.95,
        note: `${pairs} pairs, ${threads} threads, ${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)}`,
      });
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  const mean = geometricMean(rows.map(({ value }) => value));
  return [
    ...rows,
    {
      name: 'decode trial over native, all of the table of formats',
      value: mean,
      unit: 'x',
      target: 'at least 1.0',
      met: mean >= 1,
      note: 'geometric mean',
    },
  ];
}
