import type { Frame } from 'node-av/lib';
import { median } from '@/core/stats/quantiles';
import type { CostPair } from '@/core/timeline/effectCosts';
import type { Layer } from '@/core/timeline/flatten';
import { timed, type CoreTimed } from '../clock';
import type { Raster } from './pictureGraph';
import { SlotProcessor, type PictureWork } from './slotProcessor';

/** Layers as they are processed into a picture of a size. */
export interface ProcessVariant {
  readonly layers: readonly Layer[];
  readonly raster: Raster;
}

/** What the process stage works with. */
export interface ProcessSetup {
  readonly work: PictureWork;
  readonly threads: number;
  /** times each variant is run; the first builds its graph and is not counted */ readonly runs: number;
  /** Whether it is too late to begin a variant, by its place: it and all behind it are left out. */
  readonly isLate?: (variant: number) => boolean;
}

/**
 * Times of processing some variants of a slot, in turns: a machine that becomes slower for a while then makes all of them
 * slower, and times of one turn can be compared.
 * @returns per variant its counted times, one of each turn; fewer variants than were asked for where it got late
 */
async function processInTurns(
  variants: readonly ProcessVariant[],
  frameOf: (layer: Layer) => Frame | null,
  { work, threads, runs, isLate = () => false }: ProcessSetup,
): Promise<CoreTimed[][]> {
  const sides: {
    readonly layers: readonly Layer[];
    readonly frames: readonly (Frame | null)[];
    readonly processor: SlotProcessor;
    readonly times: CoreTimed[];
  }[] = [];
  const turn = async ({ layers, frames, processor }: (typeof sides)[number]) => {
    const { value, ...took } = await timed(() => processor.process(layers, frames));
    processor.release(value);
    return took;
  };
  try {
    for (const { layers, raster } of variants) {
      if (isLate(sides.length)) break;
      const processor = new SlotProcessor(raster, work, { threads });
      const side = { layers, frames: layers.map(frameOf), processor, times: [] };
      sides.push(side);
      await turn(side);
    }
    for (let run = 1; run < runs; run++) for (const side of sides) side.times.push(await turn(side));
  } finally {
    for (const { processor } of sides) await processor.close();
  }
  return sides.map(({ times }) => times);
}

/** Times of processing some layers without and with something, in turns. */
export async function processPairs(
  plain: ProcessVariant,
  changed: ProcessVariant,
  frameOf: (layer: Layer) => Frame | null,
  setup: ProcessSetup,
): Promise<CostPair[]> {
  const [without = [], having = []] = await processInTurns([plain, changed], frameOf, setup);
  return without.map(({ us }, run) => ({ plainUs: us, withUs: having[run]?.us ?? us }));
}

/**
 * Median time, and processor time, of processing variants of a slot, in turns. The time of every variant is the first's by
 * the median of what both took in one turn.
 * @returns as many as were begun before it got late
 */
export async function processTimes(
  variants: readonly ProcessVariant[],
  frameOf: (layer: Layer) => Frame | null,
  setup: ProcessSetup,
): Promise<CoreTimed[]> {
  const all = await processInTurns(variants, frameOf, setup);
  const first = all[0] ?? [];
  const firstUs = median(first.map(({ us }) => us));
  return all.map((times) => ({
    us: firstUs * median(times.map(({ us }, run) => us / Math.max(1, first[run]?.us ?? us))),
    coreUs: median(times.map(({ coreUs }) => coreUs)),
  }));
}
