import { EngineError } from '../errors';
import type { OpenTimeline } from './openTimeline';
import type { TimelineSpec } from './spec';
import type { LaneClip } from '../opening/laneShared';

/** Clips of a timeline that are at hand, in its order, for threads that open them. */
export function laneClips(opened: OpenTimeline, { media }: Pick<TimelineSpec, 'media'>): LaneClip[] {
  return Object.entries(media).map(([id, { path, setup, rate }], index) => {
    const packets = opened.tables.get(id);
    if (!packets) throw new EngineError('not-read-fully', { path });
    return { index, path, pacing: opened.pacingOf(id), setup, rate, packets };
  });
}
