import { frameIndex } from '../../media/frameIndex';
import type { PacketTable } from '../../media/packetTable';
import { seededRandom } from '../../stats/random';
import { rational } from '../../time/rational';
import { planFeed } from '../feedPlan';
import type { Simulated } from '../simulate';
import { dueUs, skippedAt, slotState, type Stage } from '../slots';
import { emptyTrace, type Trace } from '../trace';
import {
  clipGraph,
  graphOf,
  intraGraph,
  madeUpTable,
  uniformWork,
  type FrameGraph,
  type Work,
} from '../work';

/** Helpers of the playback tests: made-up work, and traces as an engine with exactly those services would leave them. */
export const slotUs = 40_000;

/** A clip of groups of pictures, `interval` frames each, with `between` frames between those that others refer to; nothing refers to them. */
export function groupsOf(groups: number, interval: number, between = 2): PacketTable {
  const order: number[] = [];
  const slots = groups * interval;
  const disposable = new Uint8Array(slots);
  const key = new Uint8Array(slots);
  for (let start = 0; start < slots; start += interval) {
    key[start] = 1;
    order.push(start);
    for (let at = start + 1; at < start + interval; at += between + 1) {
      const reference = Math.min(at + between, start + interval - 1);
      order.push(reference);
      for (let frame = at; frame < reference; frame++) {
        order.push(frame);
        disposable[frame] = 1;
      }
    }
  }
  return madeUpTable(Uint32Array.from(order), key, disposable);
}

/** Feeds of one clip side by side, each begun at a frame of its own and played at a speed, backwards below 0. */
export function feedsOf(table: PacketTable, slots: number, begins: readonly number[], speed = 1): FrameGraph {
  const feeds = begins.map((begin) => ({
    plan: planFeed(
      frameIndex(table),
      Int32Array.from({ length: slots }, (_, slot) => begin + slot * speed),
    ),
    weight: 1,
  }));
  return graphOf(
    feeds,
    Array.from({ length: slots }, (_, slot) => feeds.map((_, feed) => ({ feed, step: slot }))),
  );
}

/** Groups of I P B B P B B …, played from the first frame. */
export function longGopGraph(groups: number, interval: number): FrameGraph {
  return clipGraph(groupsOf(groups, interval));
}

export interface Durations {
  read: number;
  decode: number;
  process: number;
  present?: number;
}

export function steadyWork(graph: FrameGraph, durations: Durations): Work {
  return { ...uniformWork(graph, rational(25), durations), startUs: -24 * slotUs };
}

/** Work of a clip of random services round given means (µs), with rare stalls; the same seed gives the same work. */
export function randomWork(seed: number, slots: number, intra: boolean, means: Durations): Work {
  return randomWorkOf(intra ? intraGraph(slots) : longGopGraph(Math.ceil(slots / 12), 12), seed, means);
}

/** The same of any graph. */
export function randomWorkOf(graph: FrameGraph, seed: number, means: Durations): Work {
  const random = seededRandom(seed);
  const work = steadyWork(graph, means);
  for (const stage of ['read', 'decode', 'process', 'present'] as const) {
    const column = work[stage];
    for (let slot = 0; slot < graph.slotCount; slot++) {
      column[slot] =
        (column[slot] as number) * (0.4 + 1.2 * random()) + (random() < 0.01 ? random() * 6 * slotUs : 0);
    }
  }
  return work;
}

/** Lengthens a stage's service of one slot so that it ends just after `slots` slots from it have passed. */
export function holdStage(work: Work, stage: Exclude<Stage, 'present'>, slot: number, slots: number): void {
  const undisturbed = simulateTimes(work)[stage][slot] as number;
  const column = work[stage];
  column[slot] = (column[slot] as number) + (slot + slots) * work.slotUs + 1_500 - undisturbed;
}

/** Ends of each stage in a simulated run, recovered by giving one stage's time at a time to the next. */
function simulateTimes(work: Work): Record<Exclude<Stage, 'present'>, Float64Array> {
  const trace = traceOf(work);
  return { read: trace.readEnd, decode: trace.decodeEnd, process: trace.processEnd };
}

/** The trace an engine would leave of this work, by an independent, slot-by-slot model of the same pipeline (all-intra, no skipping). */
export function traceOf(work: Work): Trace {
  const { slotCount } = work.graph;
  const { readAhead, decoded, ready } = work.buffers;
  const trace = emptyTrace(slotCount);
  trace.bytes.fill(100_000);
  const at = (column: Float64Array, slot: number) => (slot < 0 ? -Infinity : (column[slot] as number));
  const leftReady = new Float64Array(slotCount);
  const leftDecoded = new Float64Array(slotCount);
  const processDone = new Float64Array(slotCount);
  /** Slots that came into the ready buffer. */
  const entered: number[] = [];
  for (let slot = 0; slot < slotCount; slot++) {
    const columns = trace;
    columns.readStart[slot] = Math.max(
      work.startUs ?? 0,
      at(trace.readEnd, slot - 1),
      at(trace.decodeStart, slot - readAhead),
    );
    columns.readEnd[slot] = at(trace.readStart, slot) + (work.read[slot] as number);
    columns.decodeStart[slot] = Math.max(
      work.startUs ?? 0,
      at(trace.decodeEnd, slot - 1),
      at(trace.readEnd, slot),
      at(leftDecoded, slot - decoded),
    );
    columns.decodeEnd[slot] = at(trace.decodeStart, slot) + (work.decode[slot] as number);
    columns.decodeDone[slot] = at(trace.decodeEnd, slot);
    const begins = (leftDecoded[slot] = Math.max(
      work.startUs ?? 0,
      at(processDone, slot - 1),
      at(trace.decodeEnd, slot),
      at(leftReady, entered.at(-ready) ?? -1),
    ));
    columns.wokeAt[slot] = dueUs(slot, work.slotUs);
    if (work.refused?.[slot]) {
      processDone[slot] = begins;
      columns.state[slot] = slotState.dropped;
      columns.skipped[slot] = skippedAt.media;
      continue;
    }
    entered.push(slot);
    columns.processStart[slot] = begins;
    columns.processEnd[slot] = processDone[slot] = begins + (work.process[slot] as number);
    const due = dueUs(slot, work.slotUs);
    const presented = Math.max(due, at(trace.processEnd, slot)) + (work.present[slot] as number);
    const shown = presented < due + work.slotUs;
    columns.presentedAt[slot] = shown ? presented : Number.NaN;
    columns.state[slot] = shown ? slotState.shown : slotState.dropped;
    leftReady[slot] = shown
      ? presented
      : Math.max(at(trace.processEnd, slot), Math.min(presented, due + work.slotUs));
  }
  return trace;
}

export function droppedSlots(run: Pick<Simulated, 'dropped'>): number[] {
  return [...run.dropped].flatMap((dropped, slot) => (dropped ? [slot] : []));
}

/** A simulated run as a trace with its choices, for analyses that start from one. */
export function traceOfSimulated(work: Work, run: Simulated): Trace {
  const trace = emptyTrace(work.graph.slotCount);
  for (let slot = 0; slot < trace.length; slot++) {
    trace.state[slot] = run.dropped[slot] ? slotState.dropped : slotState.shown;
    trace.presentedAt[slot] = run.presentedAt[slot] as number;
    trace.skipped[slot] = run.decisions[slot] as number;
  }
  return trace;
}
