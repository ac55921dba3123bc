import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { count } from '@/core/format';
import type { SlotContent } from '@/core/timeline/flatten';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { failureOf } from '../errors';
import { OpeningRun } from '../opening/openingRun';
import { OpenTimeline } from '../timeline/openTimeline';
import { calibrationLooks, measureEffects } from './costsRun';
import { shownBy } from '../timeline/timelineRun';
import { rampLoad, RampRun, rampSlots } from './rampRun';
import { faultsMet, scrubTimeline } from './scrubTimeline';
import type { FromTimelineTrial, TimelineTrialSpec, ToTimelineTrial } from './spec';
import type { ScrubSettings } from '@/core/kinds/scrub';
import type { TimelineTrialSettings } from '@/core/kinds/shared/timeline';

const tellingMs = 200;

/** The process that measures one scrub trial, load ramp, calibration or opening, alone. */
let cancelled = false;
let stop: () => void = () => undefined;

function tell(message: FromTimelineTrial): void {
  if (process.connected) process.send?.(message);
}

process.on('message', (message: ToTimelineTrial) => {
  if (message.type === 'start') void runTest(message.spec);
  else {
    cancelled = true;
    stop();
  }
});
process.on('disconnect', () => process.exit(0));

async function runTest(spec: TimelineTrialSpec): Promise<void> {
  try {
    Log.setLevel(AV_LOG_FATAL);
    await measure(spec);
    tell({ type: 'finished', stopped: cancelled ? 'cancelled' : null });
  } catch (error) {
    tell(failureOf(error));
  }
  process.disconnect?.();
}

async function measure({ source, settings, gesture }: TimelineTrialSpec): Promise<void> {
  const looks = settings.kind === 'calibration' ? { ...source.looks, ...calibrationLooks } : source.looks;
  const progress = (told: Extract<FromTimelineTrial, { type: 'progress' }>['progress']) =>
    tell({ type: 'progress', progress: told });
  // What an opening reads goes through the cache: a read past it beforehand would only have the store fetch what is to be timed.
  const readBy = settings.kind === 'opening' ? { ...settings, cache: 'through' as const } : settings;
  let toldMs = 0;
  const opened = await OpenTimeline.open({ ...source, looks }, readBy, {
    decoding: 'decoding' in settings ? settings.decoding : undefined,
    shown: () => shownIn(source.timeline, settings),
    tell: (done, all) => {
      if (Date.now() - toldMs < tellingMs) return;
      toldMs = Date.now();
      const note = `pictures for the stand-in are decoded: ${count(done)} of ${count(all)}`;
      progress({ share: 0, note, msLeft: null });
    },
  });
  tell({ type: 'record', record: { cold: opened.cold } });
  try {
    switch (settings.kind) {
      case 'scrub':
        await scrub(opened, source, settings, gesture);
        break;
      case 'ramp': {
        const ramp = new RampRun(
          opened,
          source.timeline,
          settings,
          (probes) => tell({ type: 'record', record: { probes } }),
          progress,
        );
        stop = () => ramp.stop();
        if (!cancelled) await ramp.run();
        break;
      }
      case 'calibration': {
        const costs = await measureEffects(
          opened,
          source.timeline,
          settings.threads,
          () => cancelled,
          progress,
        );
        if (costs) tell({ type: 'record', record: { costs } });
        break;
      }
      case 'opening': {
        const opening = new OpeningRun(
          opened,
          source,
          settings,
          new URL('./openingLane.mjs', import.meta.url),
          (record) => tell({ type: 'record', record: { opening: record } }),
          progress,
        );
        stop = () => opening.stop();
        if (!cancelled) await opening.run();
      }
    }
  } finally {
    tellFaults(opened);
    const { streams } = opened.devices;
    if (streams.length > 0) tell({ type: 'record', record: { streams } });
    await opened.close();
  }
}

/** What may be shown: anywhere in a timeline, or the stretch of its first clip that a ramp plays. */
function shownIn(timeline: Timeline, settings: TimelineTrialSettings): Iterable<SlotContent> {
  const first = settings.kind === 'ramp' ? rampLoad(timeline, settings, 1) : timeline;
  const length = lengthOf(first);
  const slots = settings.kind === 'ramp' ? Math.min(length, rampSlots(first, settings)) : length;
  return shownBy(first, { from: 0, speed: 1, slots });
}

function tellFaults(opened: OpenTimeline): void {
  const clips = faultsMet(opened);
  if (clips.length > 0) tell({ type: 'record', record: { faults: { clips, doubtful: [] } } });
}

async function scrub(
  opened: OpenTimeline,
  { timeline }: TimelineTrialSpec['source'],
  settings: ScrubSettings,
  gesture: TimelineTrialSpec['gesture'],
): Promise<void> {
  if (!gesture || cancelled) return;
  const endMs = gesture.timesMs.at(-1) ?? 0;
  let toldMs = 0;
  const { requests, failure } = await scrubTimeline(opened, timeline, settings, gesture, {
    onProgress: (share) => {
      if (Date.now() - toldMs < tellingMs) return;
      toldMs = Date.now();
      tell({
        type: 'progress',
        progress: { share, note: 'the gesture is played', msLeft: endMs * (1 - share) },
      });
    },
    onBegin: (stopRun) => {
      stop = stopRun;
    },
  });
  tell({ type: 'record', record: { requests, gesture } });
  if (failure && !cancelled) throw failure;
}
