import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import type { ScrubRequest } from '@/core/scrub/analyse';
import { flattenSlot } from '@/core/timeline/flatten';
import type { Timeline } from '@/core/timeline/model';
import { failureOf } from '../errors';
import { OpenTimeline } from '../timeline/openTimeline';
import { playbackRaster } from '../playback/processor';
import { SlotAccess } from '../timeline/slotAccess';
import { SlotProcessor } from '../timeline/slotProcessor';
import { calibrationLooks, measureEffects } from './costsRun';
import { RampRun } from './rampRun';
import { ScrubRun } from './scrubRun';
import type { FromTimelineTest, ScrubSettings, TimelineTestSpec, ToTimelineTest } from './spec';

/** The process that measures one scrub trial, load ramp or calibration, alone. */
let cancelled = false;
let stop: () => void = () => undefined;

function tell(message: FromTimelineTest): void {
  if (process.connected) process.send?.(message);
}

process.on('message', (message: ToTimelineTest) => {
  if (message.type === 'start') void runTest(message.spec);
  else {
    cancelled = true;
    stop();
  }
});
process.on('disconnect', () => process.exit(0));

async function runTest(spec: TimelineTestSpec): Promise<void> {
  try {
    Log.setLevel(AV_LOG_FATAL);
    await measure(spec);
    tell({ type: 'finished', cancelled });
  } catch (error) {
    tell(failureOf(error));
  }
  process.disconnect?.();
}

async function measure({ source, settings, gesture }: TimelineTestSpec): Promise<void> {
  const looks = settings.kind === 'costs' ? { ...source.looks, ...calibrationLooks } : source.looks;
  const opened = await OpenTimeline.open({ ...source, looks }, settings.warm);
  tell({ type: 'record', record: { cold: opened.cold } });
  const progress = (told: Extract<FromTimelineTest, { type: 'progress' }>['progress']) => tell({ type: 'progress', progress: told });
  try {
    switch (settings.kind) {
      case 'scrub': await scrub(opened, source, settings, gesture); break;
      case 'ramp': {
        const ramp = new RampRun(opened, source.timeline, settings, (probes) => tell({ type: 'record', record: { probes } }), progress);
        stop = () => ramp.stop();
        if (!cancelled) await ramp.run();
        break;
      }
      case 'costs': {
        const costs = await measureEffects(opened, source.timeline, settings.threads, () => cancelled, progress);
        if (costs) tell({ type: 'record', record: { costs } });
      }
    }
  } finally {
    tellFaults(opened);
    await opened.close();
  }
}

/** What was met of frames that are not whole. */
function tellFaults({ media }: OpenTimeline): void {
  const clips = [...media].flatMap(([id, { faults: { faults }, name = '' }]) => (faults ? [{ media: id, name, faults }] : []));
  if (clips.length > 0) tell({ type: 'record', record: { faults: { clips, doubtful: [] } } });
}

/** Marks the requests whose pictures are concealed, or built on a frame that is missing: known once all are played. */
function withDoubts(requests: readonly ScrubRequest[], timeline: Timeline, { media }: OpenTimeline): readonly ScrubRequest[] {
  const doubtful = new Map([...media].map(([id, { faults }]) => [id, faults.doubtful]));
  const isDoubted = (slot: number) => flattenSlot(timeline, slot).layers.some(({ media: of, frame }) => of !== null && doubtful.get(of)?.has(frame));
  return requests.map((request) => (isDoubted(request.target) ? { ...request, doubtful: true } : request));
}

async function scrub(opened: OpenTimeline, { timeline }: TimelineTestSpec['source'], { scale, threads }: ScrubSettings, gesture: TimelineTestSpec['gesture']): Promise<void> {
  if (!gesture || cancelled) return;
  const access = new SlotAccess(timeline, opened.media, new SlotProcessor(playbackRaster(timeline, scale), opened.files, threads), threads);
  const endMs = gesture.timesMs.at(-1) ?? 0;
  let toldMs = 0;
  const run = new ScrubRun(access, gesture, (share) => {
    if (Date.now() - toldMs < 200) return;
    toldMs = Date.now();
    tell({ type: 'progress', progress: { share, note: 'the gesture is played', msLeft: endMs * (1 - share) } });
  });
  stop = () => run.stop();
  const requests = withDoubts(await run.run(), timeline, opened);
  tell({ type: 'record', record: { requests, gesture } });
  const { failure } = access;
  await access.close();
  if (failure && !cancelled && !requests.some(({ end }) => end === 'shown')) throw failure;
}
