import type { Frame } from 'node-av/lib';
import { median } from '@/core/stats/quantiles';
import type { Layer } from '@/core/timeline/flatten';
import { timed, type CoreTimed } from '../clock';
import type { GraphFiles, Raster } from './pictureGraph';
import { SlotProcessor } from './slotProcessor';

/** What the process stage works with. */
export interface ProcessSetup {
  readonly raster: Raster;
  readonly files: GraphFiles;
  readonly threads: number;
  /** times it is run; the first builds the graph and is not counted */ readonly runs: number;
}

/** Median time, and processor time, of processing some layers over and over. @param frames per layer */
export async function processTime(
  layers: readonly Layer[],
  frames: readonly (Frame | null)[],
  { raster, files, threads, runs }: ProcessSetup,
): Promise<CoreTimed> {
  const processor = new SlotProcessor(raster, files, threads);
  const times: CoreTimed[] = [];
  try {
    for (let run = 0; run < runs; run++) {
      const { value, ...took } = await timed(() => processor.process(layers, frames));
      processor.release(value);
      if (run > 0) times.push(took);
    }
  } finally {
    await processor.close();
  }
  return { us: median(times.map(({ us }) => us)), coreUs: median(times.map(({ coreUs }) => coreUs)) };
}
