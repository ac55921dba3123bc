import { courseContents, courseSlot, type Course, type SlotContent } from '@/core/timeline/flatten';
import type { Timeline } from '@/core/timeline/model';
import type { TellBeforehand } from '../codec/beforehand';
import { decodersInWords } from '../codec/decoder';
import type { SlotFrames } from '../playback/feedSource';
import type { PreparedRun } from '../playback/preparedRun';
import { soundPlan } from '@/core/tasks/soundPlan';
import { soundJob } from '../sound/soundJob';
import { laneClips } from './laneClips';
import { openCourse } from './openCourse';
import { OpenTimeline } from './openTimeline';
import { measureParts } from './partCosts';
import type { CourseSpec } from './spec';
import type { PlaybackSettings } from '@/core/playback/settings';

/** Opens a timeline for a run over a course of it. @throws EngineError when media cannot be read or decoded */
export async function prepareTimeline(
  spec: CourseSpec,
  settings: PlaybackSettings,
  tell: TellBeforehand,
): Promise<PreparedRun<SlotFrames>> {
  const { timeline, course } = spec;
  const opened = await OpenTimeline.open(spec, settings, {
    decoding: settings.decoding,
    shown: () => shownBy(timeline, course),
    tell,
  });
  const { plan, source, recorder, slotUs, commandUs } = await openCourse(opened, timeline, course, settings);
  return {
    source,
    recorder,
    commandUs,
    slotUs,
    soundJob: soundJob(
      soundPlan(timeline, course),
      (media) => {
        const used = spec.media[media];
        return used?.sound ? { ...used, sound: used.sound, pacing: opened.pacingOf(media) } : null;
      },
      { rate: timeline.rate, slotCount: plan.slotCount },
      settings,
    ),
    graph: plan.graph,
    cold: opened.cold,
    decoder: () => decodersInWords(source.decoders),
    devices: opened.devices,
    clips: () => laneClips(opened, spec),
    assertStillThere: () => opened.assertStillThere(),
    afterwards: async () => {
      await source.close();
      if (!settings.processing)
        return {
          frameCode: source.frameCode,
          scaleCosts: null,
          parts: { ...source.useTimes, combinations: [] },
        };
      const { combinations, scaleCosts, coreCosts } = await measureParts(
        timeline,
        plan,
        opened,
        settings.scale,
        settings.threads,
      );
      return {
        frameCode: source.frameCode,
        scaleCosts,
        coreCosts,
        parts: { ...source.useTimes, combinations },
      };
    },
    close: () => opened.close(),
  };
}

/** What each slot of a course shows. */
export function* shownBy(timeline: Timeline, course: Course): Generator<SlotContent> {
  const contentAt = courseContents(timeline, course);
  for (let slot = 0; slot < course.slots; slot++) yield contentAt(courseSlot(course, slot));
}
