import { groupBy } from '@/core/groups';
import type { ScaleCosts } from '@/core/playback/cures';
import { playbackScales } from '@/core/playback/slots';
import { combinationOf, type CoursePlan } from '@/core/timeline/course';
import type { Layer } from '@/core/timeline/flatten';
import type { CombinationCost } from '@/core/timeline/parts';
import type { Timeline } from '@/core/timeline/model';
import { monotonicUs } from '../clock';
import { playbackRaster } from '../codec/processor';
import type { PlaybackScale } from '../playback/spec';
import { processTimes } from './processTime';
import { SlotAccess } from './slotAccess';
import { SlotProcessor } from './slotProcessor';
import type { OpenTimeline } from './openTimeline';

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

/** What is left of some layers without one of them, and without each of its effects. */
function partsOf(all: readonly Layer[], layer: Layer) {
  const itemId = layer.item.id;
  return [
    { itemId, effectId: null, layers: all.filter((other) => other !== layer) },
    ...layer.effects.map((effect) => ({
      itemId,
      effectId: effect.id,
      layers: all.map((other) =>
        other === layer ? { ...layer, effects: layer.effects.filter((one) => one !== effect) } : other,
      ),
    })),
  ];
}

/**
 * Times the process stage for the run's most frequent combinations of items: as they are, without each item, without each effect,
 * and at every scale. Done after the run, so that it costs it nothing.
 * @param budgetMs no combination, and of one no part, is begun after it
 */
export async function measureParts(
  timeline: Timeline,
  plan: CoursePlan,
  opened: Pick<OpenTimeline, 'media' | 'files' | 'depth' | 'fields' | 'devices'>,
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
    opened.media,
    new SlotProcessor(playbackRaster(timeline, scale), opened, { threads }),
    threads,
    opened.devices,
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
    const whole = { layers: content.layers, raster: playbackRaster(timeline, scale) };
    const others = playbackScales.filter((other) => other !== scale);
    const parts = content.layers.flatMap((layer) => partsOf(content.layers, layer));
    const [total, ...took] = await processTimes(
      [
        whole,
        ...others.map((other) => ({ layers: content.layers, raster: playbackRaster(timeline, other) })),
        ...parts.map(({ layers }) => ({ layers, raster: whole.raster })),
      ],
      frameOf,
      { work: opened, threads, runs, isLate: (variant) => variant > others.length && monotonicUs() > ends },
    );
    for (const frame of frames) frame?.free();
    if (!total) continue;
    const byScale = [total, ...took.slice(0, others.length)];
    const withoutUs = took.slice(others.length).flatMap(({ us }, index) => {
      const part = parts[index];
      return part ? [{ itemId: part.itemId, effectId: part.effectId, us }] : [];
    });
    combinations.push({ combination, totalUs: total.us, withoutUs });
    [scale, ...others].forEach((at, index) => {
      sums.us[at] += slots.length * (byScale[index]?.us ?? 0);
      sums.coreUs[at] += slots.length * (byScale[index]?.coreUs ?? 0);
    });
    weight += slots.length;
  }
  await access.close();
  const costs = ({ full, half, quarter }: Record<PlaybackScale, number>): ScaleCosts | null =>
    weight > 0 ? { full: full / weight, half: half / weight, quarter: quarter / weight } : null;
  return { combinations, scaleCosts: costs(sums.us), coreCosts: costs(sums.coreUs) };
}
