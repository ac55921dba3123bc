import type { Simulated } from './simulate';
import { slotState, skippedAt } from './slots';
import { emptyTrace, type Trace } from './trace';
import type { Work } from './work';

/**
 * The trace that a simulated run would leave: what a measured run records, from the model's times.
 * Buffer depths are not modelled and stay 0.
 * @param bytes per slot
 */
export function modelTrace(
  { graph, slotUs, refused = null }: Work,
  { presentedAt, dropped, decisions, services, ends }: Simulated,
  bytes: ArrayLike<number>,
): Trace {
  const trace = emptyTrace(graph.slotCount);
  const stages = [
    ['read', trace.readStart, trace.readEnd],
    ['decode', trace.decodeStart, trace.decodeEnd],
    ['process', trace.processStart, trace.processEnd],
  ] as const;
  for (let slot = 0; slot < graph.slotCount; slot++) {
    for (const [stage, start, end] of stages) {
      end[slot] = ends[stage][slot] as number;
      start[slot] = (ends[stage][slot] as number) - (services[stage][slot] as number);
    }
    trace.decodeDone[slot] = ends.decodeDone[slot] as number;
    trace.bytes[slot] = bytes[slot] ?? 0;
    trace.wokeAt[slot] = slot * slotUs;
    trace.presentedAt[slot] = presentedAt[slot] as number;
    const shown = dropped[slot] === 0;
    trace.state[slot] = shown ? slotState.shown : slotState.dropped;
    trace.shownFrame[slot] = shown ? slot : -1;
    const givenUp = decisions[slot] ?? skippedAt.none;
    trace.skipped[slot] =
      shown || givenUp !== skippedAt.none ? givenUp : refused?.[slot] ? skippedAt.media : skippedAt.present;
  }
  return trace;
}
