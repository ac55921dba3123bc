import { planCourse, type CoursePlan } from '@/core/timeline/course';
import { deviceRaster } from '@/core/timeline/deviceRaster';
import type { Course } from '@/core/timeline/flatten';
import type { Timeline } from '@/core/timeline/model';
import { monotonicUs } from '../clock';
import { EngineError } from '../errors';
import { FeedSource } from '../playback/feedSource';
import { playbackRaster } from '../codec/processor';
import { TraceRecorder } from '../playback/traceRecorder';
import type { OpenTimeline } from './openTimeline';
import { SlotProcessor } from './slotProcessor';
import { expectedFrames, TimelineFinisher } from './timelineFinisher';
import type { PlaybackSettings } from '@/core/playback/settings';

/** A course over an opened timeline, ready for a player. */
export interface OpenCourse {
  readonly plan: CoursePlan;
  readonly source: FeedSource;
  readonly recorder: TraceRecorder;
  readonly slotUs: number;
  /** When opening began, behind the planning, on the monotonic clock. */
  readonly commandUs: number;
}

/** Plans a course and opens the decoders of its first slots. @throws EngineError when one refuses its clip */
export async function openCourse(
  opened: OpenTimeline,
  timeline: Timeline,
  course: Course,
  {
    scale,
    threads,
    policy,
    processing,
  }: Pick<PlaybackSettings, 'scale' | 'threads' | 'policy' | 'processing'>,
): Promise<OpenCourse> {
  const plan = planCourse(timeline, course, opened.tables);
  const commandUs = monotonicUs();
  const raster = playbackRaster(timeline, scale);
  const items = new Map(timeline.tracks.flatMap((track) => track.items.map((item) => [item.id, item])));
  const processor = processing ? new SlotProcessor(raster, opened, { threads }) : null;
  const recorder = new TraceRecorder(plan.slotCount, plan.graph.bytes, expectedFrames(plan));
  const source = new FeedSource(plan, {
    mediaOf: ({ media }) => {
      const open = opened.media.get(media);
      if (!open) throw new EngineError('clip-not-at-hand');
      return open;
    },
    finisher: new TimelineFinisher(plan, (media) => opened.media.has(media), processor),
    rasterOf: ({ itemId, media }) => {
      const [item, open] = [items.get(itemId), opened.media.get(media)];
      return item && open ? deviceRaster(item, open.setup, raster) : null;
    },
    threads,
    lowDelay: policy === 'hold-time',
    devices: opened.devices,
  });
  await source.openFirst();
  return { plan, source, recorder, commandUs, slotUs: (1e6 * timeline.rate.den) / timeline.rate.num };
}
