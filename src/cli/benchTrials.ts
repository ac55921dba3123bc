import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { fileName } from '@/core/media/fileName';
import { decodePacketTable, encodePacketTable } from '@/core/media/packetTable';
import { defaultBufferDepths } from '@/core/playback/slots';
import type { RigChoices } from '@/core/playback/cures';
import { rigSpan, type RigSpan } from '@/core/playback/rigSpans';
import { summarise, type PlaybackSummary } from '@/core/playback/summary';
import { simulate } from '@/core/playback/simulate';
import { slotState } from '@/core/playback/slots';
import { decodeTrace, emptyTrace, encodeTrace, joinTraces, type Trace } from '@/core/playback/trace';
import { clipGraph, firstSlots, intraGraph, uniformWork, type FrameGraph } from '@/core/playback/work';
import { seededRandom } from '@/core/stats/random';
import { rational, type Rational } from '@/core/time/rational';
import type { MediaRef } from '@/core/timeline/model';
import { listClips } from '@/db/queries/clips';
import { addTrials, removeTrial, saveCharges } from '@/db/queries/trials';
import { getVolume } from '@/db/queries/volumes';
import { packedSound } from '@/engine/media/soundIndex';
import { probeClip } from '@/engine/media/probe';
import type { FromTrial, TrialSpec } from '@/engine/playback/spec';
import { thisRigId } from '@/engine/rig';
import type { TimelineSpec } from '@/engine/timeline/spec';
import type { LoadSummary } from '@/core/rig/load';
import { LoadMeter } from '@/server/runner/shared/loadMeter';
import type { PulseReference } from '@/server/runner/shared/pulseReference';
import { hear, WatchedProcess } from '@/server/runner/shared/watchedProcess';
import { storeTraceBatch } from '@/server/trials/traces';
import { paths } from './home';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { RunFindings } from '@/core/playback/conditions';

const settings: PlaybackSettings = {
  scale: 'full',
  policy: 'hold-time',
  threads: 0,
  warm: false,
  processing: true,
  buffers: defaultBufferDepths,
  slotLimit: null,
  faults: [],
};

/** A clip of the bench: as timelines name it, and as trials read it. */
export interface BenchMedia {
  readonly ref: MediaRef;
  readonly spec: TimelineSpec['media'][string];
}

export async function mediaAt(path: string): Promise<BenchMedia> {
  const { setup, format, packets, sound } = await probeClip(path);
  const { width, height, rate } = format;
  return {
    ref: {
      clipId: path,
      name: fileName(path),
      reel: null,
      startTimecode: null,
      contentHash: null,
      rate,
      frames: packets.length,
      width,
      height,
    },
    spec: {
      path,
      volumeId: 'bench',
      volumeName: 'bench',
      standIn: null,
      setup,
      format,
      rate,
      packets: encodePacketTable(packets),
      sound: packedSound(sound),
    },
  };
}

export interface BenchRun {
  readonly trace: Trace;
  readonly summary: PlaybackSummary;
  readonly cpuUs: number;
  readonly wallUs: number;
}

/** Runs one trial process by itself, without database or server. @param subject with its graph, cut to what was played, and its rate */
export async function playOnce(
  subject: { readonly spec: TrialSpec['subject']; readonly graph: FrameGraph; readonly rate: Rational },
  change: Partial<PlaybackSettings>,
  viewers = 0,
  silenceMs = 30_000,
): Promise<BenchRun> {
  const { spec, graph, rate } = subject;
  const parts: Trace[] = [];
  const used = { ...settings, ...change };
  const host = new WatchedProcess(
    'trial',
    join(paths.build, 'trial.mjs'),
    { trialId: 'bench', subject: spec, settings: used },
    {
      watchdogMs: silenceMs,
      onMessage: hear<FromTrial>({ batch: ({ data }) => parts.push(decodeTrace(data)) }),
    },
  );
  host.send({ type: 'viewers', count: viewers });
  const end = await host.ended;
  if (end.kind !== 'done')
    throw new Error(`A bench run ended ${end.kind}${'message' in end ? `: ${end.message}` : '.'}`);
  const trace = joinTraces(parts);
  const { summary } = summarise({
    trace,
    graph: firstSlots(graph, trace.length),
    rate,
    policy: used.policy,
    buffers: used.buffers,
    scale: used.scale,
    scaleCosts: null,
  });
  return { trace, summary, cpuUs: end.last.cpuUs, wallUs: end.last.wallUs };
}

export interface WatchedRun {
  readonly trace: Trace;
  readonly summary: PlaybackSummary;
  readonly load: LoadSummary | null;
}

const sampleIntervalMs = 500;

/**
 * The same as a runner measures it: with what the rig did meanwhile, its pulse, and cures.
 * @param pulse null to play without one
 * @param onProcess told the process that plays
 */
export async function playWatched(
  subject: { readonly spec: TrialSpec['subject']; readonly graph: FrameGraph; readonly rate: Rational },
  change: Partial<PlaybackSettings>,
  pulse: PulseReference | null,
  choices: RigChoices | null,
  onProcess: (pid: number) => void = () => undefined,
): Promise<WatchedRun> {
  const { spec, graph, rate } = subject;
  const used = { ...settings, ...change };
  const measured = pulse && (await pulse.before(null));
  const parts: Trace[] = [];
  const samples: RigSpan[] = [];
  let beganAtMs = Number.NaN;
  let costs: Pick<RunFindings, 'scaleCosts' | 'coreCosts'> = { scaleCosts: null };
  const host = new WatchedProcess(
    'trial',
    join(paths.build, 'trial.mjs'),
    { trialId: 'bench', subject: spec, settings: used },
    {
      watchdogMs: 60_000,
      onMessage: hear<FromTrial>({
        prepared: ({ conditions }) => {
          beganAtMs = conditions.beganAtMs ?? Number.NaN;
        },
        findings: ({ findings }) => {
          costs = findings;
        },
        batch: ({ data }) => parts.push(decodeTrace(data)),
      }),
    },
  );
  if (host.pid !== null) onProcess(host.pid);
  const load = new LoadMeter(() => (host.pid === null ? [] : [host.pid]), { pulse: measured });
  const sampler = setInterval(() => {
    const sample = load.sample();
    if (sample)
      samples.push(
        rigSpan(Date.now() * 1000, sample, {
          cores: availableParallelism(),
          referenceUs: measured?.referenceUs ?? null,
        }),
      );
  }, sampleIntervalMs);
  const end = await host.ended.finally(() => clearInterval(sampler));
  if (end.kind !== 'done')
    throw new Error(`A bench run ended ${end.kind}${'message' in end ? `: ${end.message}` : '.'}`);
  const trace = joinTraces(parts);
  const spans = samples.map((span) => ({ ...span, toUs: span.toUs - beganAtMs * 1000 }));
  const { summary } = summarise({
    trace,
    graph: firstSlots(graph, trace.length),
    rate,
    policy: used.policy,
    buffers: used.buffers,
    scale: used.scale,
    scaleCosts: costs.scaleCosts,
    coreCosts: costs.coreCosts ?? null,
    spans,
    choices,
  });
  return { trace, summary, load: load.summary(null) };
}

/** Plays a clip once (see `playOnce`). */
export async function benchTrial(
  path: string,
  change: Partial<PlaybackSettings>,
  viewers: number,
): Promise<BenchRun> {
  const { spec } = await mediaAt(path);
  return playOnce(
    { spec: { ...spec, kind: 'clip' }, graph: clipGraph(decodePacketTable(spec.packets)), rate: spec.rate },
    change,
    viewers,
  );
}

const longSlots = 100_000;

/** Stores a simulated result of 100 000 slots; only the page's speed is measured on it. */
export async function seedLongTrial(): Promise<{ id: string; slots: number }> {
  const rigId = await thisRigId();
  const clip = (await listClips(rigId)).find(
    ({ structure, status }) => status === 'ready' && structure?.intra,
  );
  const volume = clip && (await getVolume(clip.volumeId));
  if (!clip?.format || !clip.structure || !volume) throw new Error('The bench needs the demo clips.');
  const random = seededRandom(5);
  const graph = intraGraph(longSlots);
  const work = uniformWork(graph, rational(24), { read: 8_000, decode: 22_000, process: 12_000 });
  for (const column of [work.read, work.decode, work.process])
    column.forEach((value, slot) => {
      column[slot] = value * (0.6 + random() * 0.8) + (random() < 0.002 ? 400_000 : 0);
    });
  const { trace, charges, summary } = simulatedResult(work, simulate(work));
  const id = 'bench100000';
  await removeTrial(id);
  await addTrials([
    {
      id,
      kind: 'playback',
      rigId,
      clipId: clip.id,
      settings,
      status: 'done',
      progress: { slotCount: longSlots },
      demo: 1,
      summary,
      outcome: 'simulated',
      subject: {
        clipPath: clip.path,
        volumeName: volume.name,
        volumeKind: volume.kind,
        volumeFacts: volume.facts,
        contentHash: clip.contentHash,
        format: clip.format,
        structure: clip.structure,
        frames: longSlots,
        startTimecode: clip.startTimecode,
      },
    },
  ]);
  await saveCharges(id, Buffer.from(charges));
  const batch = 240;
  for (let from = 0; from < longSlots; from += batch) {
    const to = Math.min(longSlots, from + batch);
    await storeTraceBatch(id, from, to - from, encodeTrace(trace, from, to));
  }
  return { id, slots: longSlots };
}

export async function removeLongTrial(id: string): Promise<void> {
  await removeTrial(id);
}

/** A simulated run as the trace that an engine would have left. */
function simulatedResult(work: ReturnType<typeof uniformWork>, run: ReturnType<typeof simulate>) {
  const trace = emptyTrace(longSlots);
  for (let slot = 0; slot < longSlots; slot++) {
    const due = slot * work.slotUs;
    trace.readStart[slot] = due - 900_000;
    trace.readEnd[slot] = due - 900_000 + (work.read[slot] ?? 0);
    trace.decodeStart[slot] = due - 200_000;
    trace.decodeEnd[slot] = due - 200_000 + (work.decode[slot] ?? 0);
    trace.processStart[slot] = due - 150_000;
    trace.processEnd[slot] = due - 150_000 + (work.process[slot] ?? 0);
    trace.presentedAt[slot] = run.presentedAt[slot] ?? Number.NaN;
    trace.wokeAt[slot] = due;
    trace.bytes[slot] = 900_000;
    trace.state[slot] = run.dropped[slot] ? slotState.dropped : slotState.shown;
    trace.skipped[slot] = run.decisions[slot] ?? 0;
  }
  return {
    trace,
    ...summarise({
      trace,
      graph: work.graph,
      rate: rational(24),
      policy: 'hold-time',
      buffers: work.buffers,
      scale: 'full',
      scaleCosts: null,
    }),
  };
}
