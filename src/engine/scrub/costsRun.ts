import { playbackScales } from '@/core/playback/slots';
import { calibratedEffects, calibrationCube, type EffectCosts } from '@/core/timeline/effectCosts';
import { flattenSlot, type Layer } from '@/core/timeline/flatten';
import type { EffectKind, EffectSettings, Timeline } from '@/core/timeline/model';
import { EngineError } from '../errors';
import type { OpenTimeline } from '../timeline/openTimeline';
import { playbackRaster } from '../playback/processor';
import { processTime } from '../timeline/processTime';
import { SlotAccess } from '../timeline/slotAccess';
import { SlotProcessor } from '../timeline/slotProcessor';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';

/** Runs of each variant. */
const runs = 8;

/** Times what each effect costs at each playback scale on this rig, on a real frame of a clip. */
export async function measureEffects(
  opened: OpenTimeline,
  timeline: Timeline,
  threads: number,
  isStopped: () => boolean,
  onProgress: (progress: TimelineTrialProgress) => void,
): Promise<EffectCosts | null> {
  const content = flattenSlot(timeline, 0);
  const [plain] = content.layers;
  if (!plain)
    throw new EngineError(
      'The clip for the calibration shows nothing in its first slot. Choose another clip.',
    );
  const access = new SlotAccess(
    timeline,
    opened.media,
    new SlotProcessor(playbackRaster(timeline, 'quarter'), opened.files, threads),
    threads,
  );
  const { frames } = await access.frames(content);
  const frame = frames[0] ?? null;
  if (!frame)
    throw (
      access.failure ??
      new EngineError(
        'The first frame of the clip for the calibration cannot be decoded. Choose another clip.',
      )
    );
  const scales: EffectCosts['scales'][number][] = [];
  const variants = playbackScales.length * (calibratedEffects.length + 2);
  let done = 0;
  const told = (note: string) => onProgress({ share: done++ / variants, note, msLeft: null });
  for (const scale of playbackScales) {
    const raster = playbackRaster(timeline, scale);
    const time = async (layers: readonly Layer[]) =>
      (
        await processTime(
          layers,
          layers.map(() => frame),
          { raster, files: opened.files, threads, runs },
        )
      ).us;
    if (isStopped()) break;
    told(`${scale} scale, no effect`);
    const baseUs = await time([plain]);
    told(`${scale} scale, a second layer`);
    const layerUs = (await time([plain, { ...plain, item: { ...plain.item, id: 'second' } }])) - baseUs;
    const effects: Partial<Record<EffectKind, number>> = {};
    for (const settings of calibratedEffects) {
      if (isStopped()) break;
      told(`${scale} scale, ${settings.kind}`);
      effects[settings.kind] = (await time([withEffect(plain, settings)])) - baseUs;
    }
    scales.push({ scale, baseUs, layerUs, effects });
  }
  for (const one of frames) one?.free();
  await access.close();
  return isStopped() ? null : { width: timeline.width, height: timeline.height, scales };
}

function withEffect(layer: Layer, settings: EffectSettings): Layer {
  return { ...layer, effects: [{ id: 'calibrated', on: true, ...settings }] };
}

/** The looks that a calibration needs, by id. */
export const calibrationLooks = { calibration: calibrationCube() };
