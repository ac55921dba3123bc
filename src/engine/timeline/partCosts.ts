import { groupBy } from '@/core/groups';
import type { ScaleCosts } from '@/core/playback/cures';
import { playbackScales } from '@/core/playback/slots';
import { combinationOf, type CoursePlan } from '@/core/timeline/course';
import type { Layer } from '@/core/timeline/flatten';
import type { CombinationCost } from '@/core/timeline/parts';
import type { Timeline } from '@/core/timeline/model';
import { monotonicUs } from '../clock';
import { playbackRaster } from '../playback/processor';
import type { PlaybackScale } from '../playback/spec';
import type { GraphFiles } from './pictureGraph';
import { processTime } from './processTime';
import { SlotAccess } from './slotAccess';
import { SlotProcessor } from './slotProcessor';
import type { OpenMedia } from '../playback/feedSource';

/** Combinations measured at most, and times each variant is run. */
const mostCombinations = 8;
const runs = 4;

/** A slot among some whose frames can all be decoded, with those; null where none of a few can. */
async function decodable(access: SlotAccess, plan: CoursePlan, slots: readonly number[]) {
  for (const share of [0.5, 0.25, 0.75]) {
    const content = plan.contents[slots[Math.floor(slots.length * share)] as number];
    if (!content) continue;
    const { frames, isRefused } = await access.frames(content);
    if (!isRefused) return { content, frames };
    for (const frame of frames) frame?.free();
  }
  return null;
}

/**
 * Times the process stage for the run's most frequent combinations of items: as they are, without each item, without each effect,
 * and at every scale. Done after the run, so that it costs it nothing.
 * @param budgetMs no new variant is begun after it
 */
export async function measureParts(
  timeline: Timeline,
  plan: CoursePlan,
  media: ReadonlyMap<string, OpenMedia>,
  files: GraphFiles,
  scale: PlaybackScale,
  threads: number,
  budgetMs = 6_000,
): Promise<{ combinations: CombinationCost[]; scaleCosts: ScaleCosts | null; coreCosts: ScaleCosts | null }> {
  const combined = plan.contents.map(combinationOf);
  const frequent = [...groupBy(combined.keys(), (slot) => combined[slot] ?? '')]
    .filter(([key]) => key !== '')
    .sort((a, b) => b[1].length - a[1].length)
    .slice(0, mostCombinations);
  const ends = monotonicUs() + budgetMs * 1000;
  const access = new SlotAccess(
    timeline,
    media,
    new SlotProcessor(playbackRaster(timeline, scale), files, threads),
    threads,
  );
  const combinations: CombinationCost[] = [];
  const sums = { us: { full: 0, half: 0, quarter: 0 }, coreUs: { full: 0, half: 0, quarter: 0 } };
  let weight = 0;
  for (const [combination, slots] of frequent) {
    if (monotonicUs() > ends) break;
    const found = await decodable(access, plan, slots);
    if (!found) continue;
    const { content, frames } = found;
    const frameOf = ({ item }: Layer) =>
      frames[content.layers.findIndex((other) => other.item.id === item.id)] ?? null;
    const time = (layers: readonly Layer[], at: PlaybackScale) =>
      processTime(layers, layers.map(frameOf), {
        raster: playbackRaster(timeline, at),
        files,
        threads,
        runs,
      });
    const total = await time(content.layers, scale);
    const withoutUs: CombinationCost['withoutUs'][number][] = [];
    for (const layer of content.layers) {
      if (monotonicUs() > ends) break;
      withoutUs.push({
        itemId: layer.item.id,
        effectId: null,
        us: (
          await time(
            content.layers.filter((other) => other !== layer),
            scale,
          )
        ).us,
      });
      for (const effect of layer.effects) {
        const without = content.layers.map((other) =>
          other === layer ? { ...layer, effects: layer.effects.filter((one) => one !== effect) } : other,
        );
        withoutUs.push({ itemId: layer.item.id, effectId: effect.id, us: (await time(without, scale)).us });
      }
    }
    combinations.push({ combination, totalUs: total.us, withoutUs });
    for (const other of playbackScales) {
      const took = other === scale ? total : await time(content.layers, other);
      sums.us[other] += slots.length * took.us;
      sums.coreUs[other] += slots.length * took.coreUs;
    }
    weight += slots.length;
    for (const frame of frames) frame?.free();
  }
  await access.close();
  const costs = ({ full, half, quarter }: Record<PlaybackScale, number>): ScaleCosts | null =>
    weight > 0 ? { full: full / weight, half: half / weight, quarter: quarter / weight } : null;
  return { combinations, scaleCosts: costs(sums.us), coreCosts: costs(sums.coreUs) };
}
