import type { RunFaults } from '@/core/media/faults';
import type { ScrubRequest } from '@/core/scrub/analyse';
import type { Gesture } from '@/core/scrub/gesture';
import { flattenSlot } from '@/core/timeline/flatten';
import type { Timeline } from '@/core/timeline/model';
import { hostClock, type Clock } from '../clock';
import { playbackRaster } from '../codec/processor';
import type { OpenTimeline } from '../timeline/openTimeline';
import { SlotAccess } from '../timeline/slotAccess';
import { SlotProcessor } from '../timeline/slotProcessor';
import { ScrubRun } from './scrubRun';
import type { ScrubSettings } from '@/core/kinds/scrub';

export interface ScrubWatch {
  readonly onProgress: (share: number) => void;
  /** Told how the run can be stopped, once it begins. */
  readonly onBegin?: (stop: () => void) => void;
  readonly clock?: Clock;
}

/**
 * Plays a gesture over an open timeline.
 * @returns the requests that were made, with what became of each, and why no picture of them was shown where the media is at fault
 */
export async function scrubTimeline(
  opened: OpenTimeline,
  timeline: Timeline,
  { scale, threads }: ScrubSettings,
  gesture: Gesture,
  { onProgress, onBegin, clock = hostClock }: ScrubWatch,
): Promise<{ requests: readonly ScrubRequest[]; failure: Error | null }> {
  const access = new SlotAccess(
    timeline,
    opened.media,
    new SlotProcessor(playbackRaster(timeline, scale), opened, { threads }),
    threads,
    opened.devices,
  );
  const run = new ScrubRun(access, gesture, onProgress, clock);
  onBegin?.(() => run.stop());
  const requests = withDoubts(await run.run(), timeline, opened);
  const { failure } = access;
  await access.close();
  return { requests, failure: requests.some(({ end }) => end === 'shown') ? null : failure };
}

/** Marks the requests whose pictures are concealed, or built on a frame that is missing: known once all are played. */
function withDoubts(
  requests: readonly ScrubRequest[],
  timeline: Timeline,
  { media }: OpenTimeline,
): readonly ScrubRequest[] {
  const doubtful = new Map([...media].map(([id, { faults }]) => [id, faults.doubtful]));
  const isDoubted = (slot: number) =>
    flattenSlot(timeline, slot).layers.some(
      ({ media: of, frame }) => of !== null && doubtful.get(of)?.has(frame),
    );
  return requests.map((request) => (isDoubted(request.target) ? { ...request, doubtful: true } : request));
}

/** What was met of frames that are not whole, per clip that has any. */
export function faultsMet({ media }: OpenTimeline): RunFaults['clips'] {
  return [...media].flatMap(
    ([
      id,
      {
        faults: { faults },
        name = '',
      },
    ]) => (faults ? [{ media: id, name, faults }] : []),
  );
}
