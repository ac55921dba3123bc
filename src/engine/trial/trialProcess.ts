import { AV_LOG_FATAL } from 'node-av/constants';
import { getFFmpegInfo, Log } from 'node-av/lib';
import { monotonicUs } from '../clock';
import type { DrawnMeanwhile } from '@/core/playback/conditions';
import { failureOf } from '../errors';
import { PreviewLoad } from '../opening/previewLoad';
import { prepareTimeline } from '../timeline/timelineRun';
import { prepareClip } from '../playback/clipRun';
import { SoundThread } from '../sound/playSound';
import { Player } from '../playback/player';
import { presenterThread } from '../playback/presenter';
import type { PreparedRun } from '../playback/preparedRun';
import type { FromTrial, ToTrial, TrialSpec } from '../playback/spec';
import type { TraceRecorder } from '../playback/traceRecorder';
import { ViewerTap } from '../playback/viewerTap';

/**
 * The process that measures one trial, alone. It is told what to do over IPC,
 * sends its trace in batches and ends. It knows neither database nor server.
 */
const batchIntervalMs = 400;
const countersIntervalMs = 200;
const pathCheckIntervalMs = 500;

let player: Player | null = null;
let cancelled = false;
const viewer = new ViewerTap((frame, jpeg) => tell({ type: 'picture', frame, jpeg }));

function tell(message: FromTrial): void {
  if (process.connected) process.send?.(message);
}

let toldMs = 0;
function tellBeforehand(done: number, all: number): void {
  const now = Date.now();
  if (now - toldMs < countersIntervalMs && done < all) return;
  toldMs = now;
  tell({ type: 'beforehand', done, all });
}

process.on('message', (message: ToTrial) => {
  if (message.type === 'start') void runTrial(message.spec);
  else if (message.type === 'viewers') viewer.setViewers(message.count);
  else {
    cancelled = true;
    player?.stop();
  }
});
// Without its runner nobody would save the trace: end at once.
process.on('disconnect', () => process.exit(0));

async function runTrial(spec: TrialSpec): Promise<void> {
  try {
    await measure(spec);
  } catch (error) {
    tell(failureOf(error));
  }
  process.disconnect?.();
}

async function measure(spec: TrialSpec): Promise<void> {
  Log.setLevel(AV_LOG_FATAL);
  // Threads are up before what a person waits for begins.
  const besides =
    spec.settings.meanwhile === 'previews'
      ? await PreviewLoad.open(spec.settings.threads, new URL('./openingLane.mjs', import.meta.url))
      : null;
  const soundThread =
    spec.settings.sound === 'on' ? await SoundThread.open(new URL('./sound.mjs', import.meta.url)) : null;
  const prepared: PreparedRun = await (spec.subject.kind === 'clip'
    ? prepareClip(spec.subject, spec.settings, tellBeforehand)
    : prepareTimeline(spec.subject, spec.settings, tellBeforehand));
  const { source, graph, recorder, slotUs } = prepared;
  const sound = soundThread?.start(prepared.soundJob) ?? null;
  recorder.sound = sound;
  const onStart = (startUs: number) => {
    besides?.start(prepared.clips());
    tell({
      type: 'prepared',
      slotCount: graph.slotCount,
      conditions: {
        cold: prepared.cold,
        startLatencyMs: (startUs - prepared.commandUs) / 1000,
        beganAtMs: Date.now() + (startUs - monotonicUs()) / 1000,
        ...prepared.decoder(),
        codecLibrary: `avcodec ${getFFmpegInfo().libraries.avcodec}`,
        afterwards: null,
      },
    });
  };
  player = new Player({
    source,
    graph,
    recorder,
    viewer,
    sound: sound ?? undefined,
    settings: spec.settings,
    onStart,
    slotUs,
    openPresenter: presenterThread(new URL('./presenter.mjs', import.meta.url)),
  });
  if (cancelled) player.stop();
  let drawn: DrawnMeanwhile | undefined;
  const finalWord = await report(prepared, player, recorder).finally(async () => {
    drawn = await besides?.stop();
    const { streams } = prepared.devices;
    if (streams.length > 0) tell({ type: 'streams', streams });
    const { faults } = source;
    if (faults) tell({ type: 'faults', faults });
  });
  if (!cancelled && !spec.bare) {
    const soundProblem = sound?.problem;
    tell({
      type: 'findings',
      findings: {
        ...(await prepared.afterwards()),
        ...(drawn ? { drawn } : {}),
        ...(soundProblem ? { soundProblem } : {}),
      },
    });
  }
  tell(finalWord);
  await prepared.close();
}

/** Runs the player to its end, giving out batches and counters. Returns the final word on the run. */
async function report(prepared: PreparedRun, running: Player, recorder: TraceRecorder): Promise<FromTrial> {
  const cpuBefore = process.cpuUsage();
  const beganUs = monotonicUs();
  const reporting = startReporting(running, recorder, cpuBefore);
  const watchPath = watch(prepared);
  try {
    await Promise.race([running.run(), watchPath.failed]);
    if (!cancelled && prepared.source.failure) throw prepared.source.failure;
  } finally {
    watchPath.end();
    reporting.end();
    flush(recorder);
  }
  const cpu = process.cpuUsage(cpuBefore);
  return {
    type: 'finished',
    stopped: cancelled ? 'cancelled' : null,
    cpuUs: cpu.user + cpu.system,
    wallUs: monotonicUs() - beganUs,
    // What waits for a made-up device would not be there with a real one.
    peakMemoryBytes: Math.max(0, process.resourceUsage().maxRSS * 1024 - prepared.devices.beforehandBytes),
  };
}

function flush(recorder: TraceRecorder): void {
  const batch = recorder.takeBatch();
  if (batch) tell({ type: 'batch', ...batch });
}

/** Sends batches and counters while the run goes on. */
function startReporting(running: Player, recorder: TraceRecorder, cpuBefore: NodeJS.CpuUsage) {
  const counters = () => {
    const cpu = process.cpuUsage(cpuBefore);
    tell({
      type: 'counters',
      counters: {
        slot: running.position,
        slotCount: recorder.slotCount,
        shown: recorder.shown,
        dropped: recorder.dropped,
        settled: recorder.settled,
        achievedRate: running.achievedRate,
        depths: running.depths,
        cpuUs: cpu.user + cpu.system,
      },
    });
  };
  const timers = [
    setInterval(() => flush(recorder), batchIntervalMs),
    setInterval(counters, countersIntervalMs),
  ];
  return { end: () => timers.forEach(clearInterval) };
}

/** Looks now and then whether paths still lead to the opened files: an open file outlives its name, a volume does not. */
function watch(prepared: PreparedRun) {
  let timer: NodeJS.Timeout | null = null;
  const failed = new Promise<never>((_, reject) => {
    timer = setInterval(
      () =>
        prepared.assertStillThere().catch((error: unknown) => {
          player?.stop();
          reject(error instanceof Error ? error : new Error(String(error)));
        }),
      pathCheckIntervalMs,
    );
  });
  failed.catch(() => undefined);
  return {
    failed,
    end: () => {
      if (timer) clearInterval(timer);
    },
  };
}
