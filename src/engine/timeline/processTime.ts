import type { Frame } from 'node-av/lib';
import { median } from '@/core/stats/quantiles';
import type { CostPair } from '@/core/timeline/effectCosts';
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

/** Times of processing some layers without and with something, in turns. @param frames per layer */
export async function processPairs(
  plain: readonly Layer[],
  changed: readonly Layer[],
  frameOf: (layer: Layer) => Frame | null,
  { raster, files, threads, runs }: ProcessSetup,
): Promise<CostPair[]> {
  const sides = [plain, changed].map((layers) => ({
    layers,
    frames: layers.map(frameOf),
    processor: new SlotProcessor(raster, files, threads),
  }));
  const pairs: CostPair[] = [];
  try {
    for (let run = 0; run < runs; run++) {
      const us: number[] = [];
      for (const { layers, frames, processor } of sides) {
        const { value, ...took } = await timed(() => processor.process(layers, frames));
        processor.release(value);
        us.push(took.us);
      }
      const [plainUs = 0, withUs = 0] = us;
      if (run > 0) pairs.push({ plainUs, withUs });
    }
  } finally {
    for (const { processor } of sides) await processor.close();
  }
  return pairs;
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
