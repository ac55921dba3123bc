import { join } from 'node:path';
import { encodePacketTable } from '@/core/media/packetTable';
import { defaultBufferDepths } from '@/core/playback/slots';
import { summarise, type PlaybackSummary } from '@/core/playback/summary';
import { simulate } from '@/core/playback/simulate';
import { slotState } from '@/core/playback/slots';
import { decodeTrace, emptyTrace, encodeTrace, joinTraces, type Trace } from '@/core/playback/trace';
import { clipGraph, intraGraph, uniformWork } from '@/core/playback/work';
import { seededRandom } from '@/core/stats/random';
import { rational } from '@/core/time/rational';
import { listClips } from '@/db/queries/clips';
import { addTrial, removeTrial } from '@/db/queries/trials';
import { getVolume } from '@/db/queries/volumes';
import { probeClip } from '@/engine/media/probe';
import type { PlaybackSettings } from '@/engine/playback/spec';
import { thisRigId } from '@/engine/rig';
import { TrialHost } from '@/server/runner/trialHost';
import { storeTraceBatch } from '@/server/traces';
import { paths } from './home';

const settings: PlaybackSettings = { scale: 'full', policy: 'hold-time', threads: 0, warm: false, processing: true, buffers: defaultBufferDepths, slotLimit: null, faults: [] };

/** Runs one trial process by itself, without database or server. */
export async function benchTrial(path: string, change: Partial<PlaybackSettings>, viewers: number): Promise<{ summary: PlaybackSummary; cpuUs: number; wallUs: number }> {
  const probed = await probeClip(path);
  const parts: Trace[] = [];
  const used = { ...settings, ...change };
  const host = new TrialHost(join(paths.build, 'trial.mjs'), { trialId: 'bench', subject: { kind: 'clip', path, standIn: null, setup: probed.setup, rate: probed.format.rate, packets: encodePacketTable(probed.packets) }, settings: used }, {
    onPrepared: () => undefined, onFindings: () => undefined, onCounters: () => undefined, onPicture: () => undefined,
    onBatch: ({ data }) => { parts.push(decodeTrace(data)); },
  }, 30_000);
  host.setViewers(viewers);
  const end = await host.ended;
  if (end.kind !== 'done') throw new Error(`A bench trial of ${path} ended ${end.kind}.`);
  const trace = joinTraces(parts);
  const { summary } = summarise({ trace, graph: clipGraph(probed.packets, trace.length), rate: probed.format.rate, policy: used.policy, buffers: used.buffers, scale: used.scale, scaleCosts: null });
  return { summary, cpuUs: end.cpuUs, wallUs: end.wallUs };
}

const longSlots = 100_000;

/** Stores a simulated result of 100 000 slots; only the page's speed is measured on it. */
export async function seedLongTrial(): Promise<{ id: string; slots: number }> {
  const rigId = await thisRigId();
  const clip = (await listClips(rigId)).find(({ structure, status }) => status === 'ready' && structure?.intra);
  const volume = clip && (await getVolume(clip.volumeId));
  if (!clip?.format || !clip.structure || !volume) throw new Error('The bench needs the demo clips.');
  const random = seededRandom(5);
  const graph = intraGraph(longSlots);
  const work = uniformWork(graph, rational(24), { read: 8_000, decode: 22_000, process: 12_000 });
  for (const column of [work.read, work.decode, work.process]) column.forEach((value, slot) => { column[slot] = value * (0.6 + random() * 0.8) + (random() < 0.002 ? 400_000 : 0); });
  const { trace, charges, summary } = simulatedResult(work, simulate(work));
  const id = 'bench100000';
  await removeTrial(id);
  await addTrial({
    id, kind: 'playback', rigId, clipId: clip.id, settings, status: 'done', slotCount: longSlots, demo: 1, summary, charges: Buffer.from(charges), outcome: 'simulated',
    subject: { clipPath: clip.path, volumeName: volume.name, volumeKind: volume.kind, volumeFacts: volume.facts, contentHash: clip.contentHash, format: clip.format, structure: clip.structure, frames: longSlots, startTimecode: clip.startTimecode },
  });
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
  return { trace, ...summarise({ trace, graph: work.graph, rate: rational(24), policy: 'hold-time', buffers: work.buffers, scale: 'full', scaleCosts: null }) };
}
