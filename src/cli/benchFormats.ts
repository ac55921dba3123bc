import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { formatSamples } from '@/engine/testing/formatSamples';
import { writeTestMedia } from '@/engine/testing/testMedia';
import type { BenchRow } from './bench';
import { decodeTrialRow, meanRow } from './benchMedia';

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
      rows.push(await decodeTrialRow(name, path, frames, 0.95));
      rmSync(path);
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  return [...rows, meanRow('decode trial over native, all of the table of formats', rows, 1)];
}
