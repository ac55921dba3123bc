import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { failureOf } from '../errors';
import { OpenTimeline } from '../timeline/openTimeline';
import { calibrationLooks, measureEffects } from './costsRun';
import { RampRun } from './rampRun';
import { faultsMet, scrubTimeline } from './scrubTimeline';
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
    tell({ type: 'finished', stopped: cancelled ? 'cancelled' : null });
  } catch (error) {
    tell(failureOf(error));
  }
  process.disconnect?.();
}

async function measure({ source, settings, gesture }: TimelineTestSpec): Promise<void> {
  const looks = settings.kind === 'calibration' ? { ...source.looks, ...calibrationLooks } : source.looks;
  const opened = await OpenTimeline.open({ ...source, looks }, settings.warm);
  tell({ type: 'record', record: { cold: opened.cold } });
  const progress = (told: Extract<FromTimelineTest, { type: 'progress' }>['progress']) =>
    tell({ type: 'progress', progress: told });
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
      }
    }
  } finally {
    tellFaults(opened);
    await opened.close();
  }
}

function tellFaults(opened: OpenTimeline): void {
  const clips = faultsMet(opened);
  if (clips.length > 0) tell({ type: 'record', record: { faults: { clips, doubtful: [] } } });
}

async function scrub(
  opened: OpenTimeline,
  { timeline }: TimelineTestSpec['source'],
  settings: ScrubSettings,
  gesture: TimelineTestSpec['gesture'],
): Promise<void> {
  if (!gesture || cancelled) return;
  const endMs = gesture.timesMs.at(-1) ?? 0;
  let toldMs = 0;
  const { requests, failure } = await scrubTimeline(opened, timeline, settings, gesture, {
    onProgress: (share) => {
      if (Date.now() - toldMs < 200) return;
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
