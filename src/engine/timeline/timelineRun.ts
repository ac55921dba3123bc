import type { PreparedRun } from '../playback/preparedRun';
import type { PlaybackSettings } from '../playback/spec';
import { openCourse } from './openCourse';
import { OpenTimeline } from './openTimeline';
import { measureParts } from './partCosts';
import type { CourseSpec } from './spec';
import type { SlotFrames, SlotPackets } from './timelineSource';

/** Opens a timeline for a run over a course of it. @throws EngineError when media cannot be read or decoded */
export async function prepareTimeline(spec: CourseSpec, settings: PlaybackSettings): Promise<PreparedRun<SlotPackets, SlotFrames>> {
  const { timeline, course } = spec;
  const opened = await OpenTimeline.open(spec, settings.warm);
  const { plan, source, recorder, slotUs, commandUs } = await openCourse(opened, timeline, course, settings);
  return {
    source, recorder, commandUs, slotUs, graph: plan.graph, cold: opened.cold,
    decoder: () => inWords(source.decoders),
    assertStillThere: () => opened.assertStillThere(),
    afterwards: async () => {
      await source.close();
      if (!settings.processing) return { frameCode: source.frameCode, scaleCosts: null, parts: { ...source.useTimes, combinations: [] } };
      const { combinations, scaleCosts } = await measureParts(timeline, plan, opened.media, opened.files, settings.scale, settings.threads);
      return { frameCode: source.frameCode, scaleCosts, parts: { ...source.useTimes, combinations } };
    },
    close: () => opened.close(),
  };
}

/** "h264 x2, prores". Threads are those of all together. */
function inWords(decoders: readonly { name: string; threads: number; threadKind: string }[]): { decoder: string; decoderThreads: number; threadKind: string } {
  const counts = new Map<string, number>();
  for (const { name } of decoders) counts.set(name, (counts.get(name) ?? 0) + 1);
  return {
    decoder: [...counts].map(([name, count]) => (count > 1 ? `${name} x${count}` : name)).join(', ') || 'none',
    decoderThreads: decoders.reduce((sum, { threads }) => sum + threads, 0),
    threadKind: [...new Set(decoders.map(({ threadKind }) => threadKind))].join(', ') || 'none',
  };
}
