import { playbackScales } from '@/core/playback/slots';
import { median } from '@/core/stats/quantiles';
import {
  addedUs,
  calibratedEffects,
  calibrationCube,
  type CostPair,
  type EffectCosts,
  type ScaleEffectCosts,
} from '@/core/timeline/effectCosts';
import { flattenSlot, type Layer } from '@/core/timeline/flatten';
import type { EffectKind, EffectSettings, Timeline } from '@/core/timeline/model';
import { inDepth } from '../codec/inDepth';
import { EngineError } from '../errors';
import type { OpenTimeline } from '../timeline/openTimeline';
import { playbackRaster } from '../codec/processor';
import { processPairs } from '../timeline/processTime';
import { SlotAccess } from '../timeline/slotAccess';
import { SlotProcessor } from '../timeline/slotProcessor';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';

/** Pairs of runs of each variant; the first builds the graphs and is not counted. */
const runs = 8;

/** Times what each effect costs at each playback scale on this rig, on a real frame of a clip: as a source of 8 bits a channel has it, and as one of 10 that is worked on in 16. */
export async function measureEffects(
  opened: OpenTimeline,
  timeline: Timeline,
  threads: number,
  isStopped: () => boolean,
  onProgress: (progress: TimelineTrialProgress) => void,
): Promise<EffectCosts | null> {
  const content = flattenSlot(timeline, 0);
  const [plain] = content.layers;
  if (!plain) throw new EngineError('calibration-shows-nothing');
  const access = new SlotAccess(
    timeline,
    opened.media,
    new SlotProcessor(playbackRaster(timeline, 'quarter'), opened, { threads }),
    threads,
    opened.devices,
  );
  const { frames } = await access.frames(content);
  const frame = frames[0] ?? null;
  if (!frame) throw access.failure ?? new EngineError('calibration-not-decoded');
  const depths = [
    { depth: '8-bit', frame: await inDepth(frame, 8) },
    { depth: 'kept', frame: await inDepth(frame, 10) },
  ] as const;
  let done = 0;
  const all = depths.length * playbackScales.length * (calibratedEffects.length + 1);
  const told = (note: string) => onProgress({ share: done++ / all, note, msLeft: null });
  const costs: ScaleEffectCosts[][] = [];
  for (const { depth, frame: shown } of depths) {
    const scales: ScaleEffectCosts[] = [];
    for (const scale of playbackScales) {
      if (isStopped()) break;
      const raster = playbackRaster(timeline, scale);
      const costsOf = async (note: string, layers: readonly Layer[]): Promise<CostPair[]> => {
        told(`${scale} scale, ${note}, in ${depth === 'kept' ? 16 : 8} bits`);
        const work = { files: opened.files, fields: opened.fields, depth };
        const setup = { work, threads, runs };
        return processPairs({ layers: [plain], raster }, { layers, raster }, () => shown, setup);
      };
      scales.push({ scale, ...(await scaleCosts(plain, costsOf, isStopped)) });
    }
    costs.push(scales);
    shown.free();
  }
  for (const one of frames) one?.free();
  await access.close();
  const [scales = [], deep = []] = costs;
  return isStopped() ? null : { width: timeline.width, height: timeline.height, scales, deep };
}

/** What a plain layer takes, and what a second one and each effect add to it. */
async function scaleCosts(
  plain: Layer,
  costsOf: (note: string, layers: readonly Layer[]) => Promise<CostPair[]>,
  isStopped: () => boolean,
): Promise<Omit<ScaleEffectCosts, 'scale'>> {
  const plainUs: number[] = [];
  const added = async (note: string, layers: readonly Layer[]) => {
    const pairs = await costsOf(note, layers);
    plainUs.push(...pairs.map((pair) => pair.plainUs));
    return addedUs(pairs);
  };
  const second = { ...plain, item: { ...plain.item, id: 'second' } };
  const layerUs = await added('a second layer', [plain, second]);
  const effects: Partial<Record<EffectKind, number>> = {};
  for (const settings of calibratedEffects) {
    if (isStopped()) break;
    effects[settings.kind] = await added(settings.kind, [withEffect(plain, settings)]);
  }
  return { baseUs: median(plainUs), layerUs, effects };
}

function withEffect(layer: Layer, settings: EffectSettings): Layer {
  return { ...layer, effects: [{ id: 'calibrated', on: true, ...settings }] };
}

/** The looks that a calibration needs, by id. */
export const calibrationLooks = { calibration: calibrationCube() };
