import type { Frame } from 'node-av/lib';
import { median } from '@/core/stats/quantiles';
import type { Layer } from '@/core/timeline/flatten';
import { monotonicUs } from '../clock';
import type { GraphFiles, Raster } from './pictureGraph';
import { SlotProcessor } from './slotProcessor';

/** What the process stage works with. */
export interface ProcessSetup { readonly raster: Raster; readonly files: GraphFiles; readonly threads: number; /** times it is run; the first builds the graph and is not counted */ readonly runs: number }

/** Median time of processing some layers over and over, µs. @param frames per layer */
export async function processTime(layers: readonly Layer[], frames: readonly (Frame | null)[], { raster, files, threads, runs }: ProcessSetup): Promise<number> {
  const processor = new SlotProcessor(raster, files, threads);
  const times: number[] = [];
  try {
    for (let run = 0; run < runs; run++) {
      const begun = monotonicUs();
      processor.release(await processor.process(layers, frames));
      if (run > 0) times.push(monotonicUs() - begun);
    }
  } finally {
    await processor.close();
  }
  return median(times);
}
