import { AV_LOG_FATAL } from 'node-av/constants';
import { getFFmpegInfo, Log } from 'node-av/lib';
import { bytesPerSlot } from '@/core/media/dataRate';
import { decodePacketTable, type PacketTable } from '@/core/media/packetTable';
import type { ScaleCosts } from '@/core/playback/cures';
import { closedSlotCount, frameGraph } from '@/core/playback/work';
import { median } from '@/core/stats/quantiles';
import { monotonicUs } from '../clock';
import { failureOf } from '../errors';
import { ColdFile } from '../media/coldFile';
import { pacedReader } from '../storage/standIn';
import { Decoder, packetOf } from './decoder';
import { Player } from './player';
import { Processor } from './processor';
import type { FromTrial, PlaybackScale, ToTrial, TrialSpec } from './spec';
import { TraceRecorder } from './traceRecorder';
import { ViewerTap } from './viewerTap';

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
  const { settings, rate } = spec;
  const packets = decodePacketTable(spec.packets);
  const graph = frameGraph(packets, closedSlotCount(packets, settings.slotLimit ?? packets.length));
  const largest = packets.size.reduce((most, size) => Math.max(most, size), 0);
  const file = await ColdFile.open(spec.path, largest, settings.warm);
  // Proving the file cold is the measurement's business; what a person waits for begins here.
  const commandUs = monotonicUs();
  const decoder = await Decoder.open(spec.setup, { threads: settings.threads, lowDelay: graph.intra && settings.policy === 'hold-time', rate });
  const processor = settings.processing ? new Processor(spec.setup.width, spec.setup.height, settings.scale) : null;
  const recorder = new TraceRecorder(graph.slotCount, bytesPerSlot(packets));
  const onStart = (startUs: number) => tell({
    type: 'prepared', slotCount: graph.slotCount,
    conditions: {
      cold: file.proof, startLatencyMs: (startUs - commandUs) / 1000, decoder: decoder.name, decoderThreads: decoder.threads, threadKind: decoder.threadKind,
      codecLibrary: `avcodec ${getFFmpegInfo().libraries.avcodec}`, afterwards: null,
    },
  });
  player = new Player({
    file: pacedReader(file, spec.standIn), decoder, processor, graph, packets, recorder, viewer, settings, onStart, slotUs: (1e6 * rate.den) / rate.num,
    presenterPath: new URL('./presenter.mjs', import.meta.url),
  });
  if (cancelled) player.stop();
  const finalWord = await report(file, player, recorder);
  if (!cancelled) tell({ type: 'findings', findings: { frameCode: player.frameCode ?? false, scaleCosts: await measureScales(file, spec, packets) } });
  tell(finalWord);
  await file.close();
}

/** Runs the player to its end, giving out batches and counters. Returns the final word on the run. */
async function report(file: ColdFile, running: Player, recorder: TraceRecorder): Promise<FromTrial> {
  const cpuBefore = process.cpuUsage();
  const beganUs = monotonicUs();
  const reporting = startReporting(running, recorder, cpuBefore);
  const watchPath = watch(file);
  try {
    await Promise.race([running.run(), watchPath.failed]);
  } finally {
    watchPath.end();
    reporting.end();
    flush(recorder);
  }
  const cpu = process.cpuUsage(cpuBefore);
  return { type: 'finished', cancelled, cpuUs: cpu.user + cpu.system, wallUs: monotonicUs() - beganUs, peakMemoryBytes: process.resourceUsage().maxRSS * 1024 };
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
        slot: running.position, slotCount: recorder.slotCount, shown: recorder.shown, dropped: recorder.dropped, settled: recorder.settled,
        achievedRate: running.achievedRate, depths: running.depths, cpuUs: cpu.user + cpu.system,
      },
    });
  };
  const timers = [setInterval(() => flush(recorder), batchIntervalMs), setInterval(counters, countersIntervalMs)];
  return { end: () => timers.forEach(clearInterval) };
}

/** Looks now and then whether the path still leads to the opened file: an open file outlives its name, a volume does not. */
function watch(file: ColdFile) {
  let timer: NodeJS.Timeout | null = null;
  const failed = new Promise<never>((_, reject) => {
    timer = setInterval(() => file.assertStillThere().catch((error: unknown) => {
      player?.stop();
      reject(error instanceof Error ? error : new Error(String(error)));
    }), pathCheckIntervalMs);
  });
  failed.catch(() => undefined);
  return { failed, end: () => { if (timer) clearInterval(timer); } };
}

/** The first of them allocates and is not counted. */
const timedFrames = 8;

/**
 * Decodes the first frames and times the process stage at every scale, so that
 * the result can say what a smaller raster would have saved on this rig.
 */
async function measureScales(file: ColdFile, spec: TrialSpec, packets: PacketTable): Promise<ScaleCosts | null> {
  if (!spec.settings.processing) return null;
  const decoder = await Decoder.open(spec.setup, { threads: 1, lowDelay: true, rate: spec.rate });
  const { width, height } = spec.setup;
  const scales: PlaybackScale[] = ['full', 'half', 'quarter'];
  const processors = scales.map((scale) => new Processor(width, height, scale));
  const times: Record<PlaybackScale, number[]> = { full: [], half: [], quarter: [] };
  let frames = 0;
  for (let row = 0; row < packets.length && frames < timedFrames; row++) {
    const packet = packetOf(await file.read(packets.offset[row] as number, packets.size[row] as number), packets.slot[row] as number, row === 0);
    await decoder.send(packet);
    packet.free();
    for (let frame = await decoder.receive(); frame && frames < timedFrames; frame = await decoder.receive()) {
      for (const [index, scale] of scales.entries()) {
        const processor = processors[index] as Processor;
        const begun = monotonicUs();
        const picture = await processor.process(frame);
        if (frames > 0) times[scale].push(monotonicUs() - begun);
        processor.release(picture);
      }
      frame.free();
      frames++;
    }
    if (row === packets.length - 1) await decoder.send(null);
  }
  decoder.close();
  processors.forEach((processor) => processor.close());
  const costs = { full: median(times.full), half: median(times.half), quarter: median(times.quarter) };
  return Number.isNaN(costs.full) ? null : costs;
}
