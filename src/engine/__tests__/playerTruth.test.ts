import fc from 'fast-check';
import { feedsOf, groupsOf, randomWork, randomWorkOf, slotUs } from '@/core/playback/__tests__/made';
import { attribute } from '@/core/playback/attribute';
import type { FeedRows, SlotRows } from '@/core/playback/backlog';
import { measuredWork } from '@/core/playback/measuredWork';
import { simulate, type Simulated } from '@/core/playback/simulate';
import { defaultBufferDepths, skippedAt, slotState, type Policy } from '@/core/playback/slots';
import type { Trace } from '@/core/playback/trace';
import type { FrameGraph, Work } from '@/core/playback/work';
import { seededRandom } from '@/core/stats/random';
import type { PlaySource } from '../playback/playSource';
import { Player } from '../playback/player';
import { TraceRecorder } from '../playback/traceRecorder';
import { ViewerTap } from '../playback/viewerTap';
import { plainSettings } from './testTrial';
import { VirtualClock, virtualPresenter } from './virtualClock';

/*
 * The player itself, with stages of known length on a clock that passes only when nothing is left to do:
 * what it reads, decodes, processes, shows and gives up is to be what the simulator says of the same work.
 */

/** A source whose stages take the times of given work, and nothing else. */
class TimedSource implements PlaySource<number> {
  readonly faults = null;
  readonly failure = null;
  readonly frameCode = false;
  private readonly decoded: number[] = [];

  constructor(private readonly work: Work, private readonly clock: VirtualClock) {}

  private get graph(): FrameGraph { return this.work.graph; }

  /** A unit's time goes with its bytes; what a slot needs nothing for takes its own. */
  read({ slot, parts }: SlotRows): Promise<void> {
    const { read } = this.work;
    const bytes = parts?.reduce((sum, part) => sum + part.bytes, 0) ?? 0;
    if (!parts || bytes === 0) return this.clock.sleep(read[slot]!);
    return this.clock.sleep(parts.reduce((sum, part) => sum + (part.bytes > 0 ? (read[part.unit]! * part.bytes) / this.graph.bytes[part.unit]! : 0), 0));
  }

  /** A unit's time goes with its packets, all of one weight. */
  async decode(piece: readonly FeedRows[], slot: SlotRows | null): Promise<void> {
    const { decode } = this.work;
    const units = piece.flatMap((one) => one.units);
    const isEmpty = slot !== null && (slot.parts === null || slot.parts.every(({ weight }) => weight === 0));
    await this.clock.sleep(isEmpty ? decode[slot.slot]! : units.reduce((sum, unit) => sum + decode[unit]! / this.graph.weights[unit]!, 0));
    if (slot) this.decoded.push(slot.slot);
  }

  get hasFrame(): boolean { return this.decoded.length > 0; }

  receive(): Promise<{ slot: number; decoded: number; isRefused: boolean }> {
    const slot = this.decoded.shift()!;
    return Promise.resolve({ slot, decoded: slot, isRefused: this.work.refused?.[slot] === 1 });
  }

  async process(slot: number): Promise<null> {
    await this.clock.sleep(this.work.process[slot]!);
    return null;
  }

  end(): Promise<void> { return Promise.resolve(); }
  drop(): void { /* nothing is held */ }
  release(): void { /* nothing is held */ }
  shownFrame(slot: number): number { return slot; }
  close(): Promise<void> { return Promise.resolve(); }
}

/** Plays work with the player; the trace, and when t0 was after the first read, µs. */
async function play(work: Work, policy: Policy): Promise<{ trace: Trace; startUs: number }> {
  const clock = new VirtualClock();
  const recorder = new TraceRecorder(work.graph.slotCount, work.graph.bytes);
  let startUs = Number.NaN;
  const player = new Player({
    source: new TimedSource(work, clock), graph: work.graph, recorder, viewer: new ViewerTap(() => undefined), slotUs: work.slotUs, clock,
    openPresenter: virtualPresenter(clock), settings: { ...plainSettings, policy, buffers: work.buffers }, onStart: (at) => { startUs = at; },
  });
  await clock.run(player.run());
  return { trace: recorder.finished(), startUs };
}

const outcomes = (trace: Trace) => Array.from(trace.state, (state) => (state === slotState.dropped ? 'dropped' : 'shown')).join(' ');
const outcomesOf = ({ dropped }: Simulated) => Array.from(dropped, (isDropped) => (isDropped ? 'dropped' : 'shown')).join(' ');

async function compare(made: Work, policy: Policy): Promise<{ trace: Trace; simulated: Simulated }> {
  const { trace, startUs } = await play(made, policy);
  const work: Work = { ...made, policy, startUs: -startUs };
  const simulated = simulate(work);
  expect(trace.length).toBe(work.graph.slotCount);
  expect(outcomes(trace)).toBe(outcomesOf(simulated));
  for (const [measured, ends] of [[trace.presentedAt, simulated.presentedAt], [trace.processEnd, simulated.ends.process], [trace.readEnd, simulated.ends.read], [trace.decodeEnd, simulated.ends.decode]] as const) {
    const apart = [...measured].flatMap((at, slot) => (trace.state[slot] === slotState.dropped || Math.abs(at - ends[slot]!) < 0.01 ? [] : [[slot, at, ends[slot]]]));
    expect(apart).toEqual([]);
  }
  return { trace, simulated };
}

/** Presented by a presenter that is never late. */
const onTime = (work: Work): Work => ({ ...work, present: new Float64Array(work.graph.slotCount) });
const runs = 40;
const load = fc.record({ read: fc.integer({ min: 2_000, max: 30_000 }), decode: fc.integer({ min: 2_000, max: 44_000 }), process: fc.integer({ min: 2_000, max: 48_000 }) });

test.each<Policy>(['hold-time', 'every-frame'])('played under %s, random work gives slot by slot what the simulator says', async (policy) => {
  let dropped = 0;
  await fc.assert(fc.asyncProperty(fc.integer(), fc.boolean(), load, async (seed, intra, means) => {
    const { simulated } = await compare(onTime(randomWork(seed, 240, intra, means)), policy);
    dropped += simulated.droppedCount;
  }), { numRuns: runs });
  // Neither idle rigs alone, nor such as show nothing.
  expect(dropped > 0).toBe(policy === 'hold-time');
  expect(dropped).toBeLessThan(runs * 200);
});

test('streams whose key frames fall apart, at speed and backwards too, catch up in the player as in the simulator', async () => {
  await fc.assert(fc.asyncProperty(fc.integer(), fc.uniqueArray(fc.integer({ min: 0, max: 30 }), { minLength: 1, maxLength: 4 }), fc.constantFrom(1, 3, 4, -1, -4), load, async (seed, begins, speed, means) => {
    const frames = 160 * Math.abs(speed);
    const first = speed > 0 ? 0 : frames;
    const graph = feedsOf(groupsOf(Math.ceil((frames + 40) / 12), 12), 160, begins.map((begin) => begin + first), speed);
    // A unit's packets share its time.
    const perPacket = { ...means, decode: means.decode / begins.length };
    await compare(onTime(randomWorkOf(graph, seed, perPacket)), 'hold-time');
  }), { numRuns: runs });
});

test('what the decoder makes no picture of is passed by both in the same slots', async () => {
  await fc.assert(fc.asyncProperty(fc.integer(), fc.boolean(), load, fc.uniqueArray(fc.integer({ min: 0, max: 239 }), { minLength: 1, maxLength: 30 }), async (seed, intra, means, slots) => {
    const work = onTime(randomWork(seed, 240, intra, means));
    const refused = new Uint8Array(work.graph.slotCount);
    for (const slot of slots) refused[slot] = 1;
    const { trace } = await compare({ ...work, refused }, 'hold-time');
    trace.skipped.forEach((where, slot) => { if (where === skippedAt.media) expect(refused[slot]).toBe(1); });
  }), { numRuns: runs });
});

test('the buffers are filled before t0, by the player as by the simulator', async () => {
  const random = seededRandom(3);
  for (let round = 0; round < 10; round++) {
    const work = onTime(randomWork(Math.floor(random() * 1e9), 240, round % 2 === 0, { read: 9_000, decode: 50_000, process: 12_000 }));
    const { startUs } = await play(work, 'hold-time');
    const filled = -simulate({ ...work, startUs: null }).startUs;
    // It looks every two milliseconds whether they are full.
    expect(startUs).toBeGreaterThanOrEqual(filled);
    expect(startUs).toBeLessThanOrEqual(filled + 2_000);
  }
});

test('of its own record a run is told again: services that it had, choices that it made, all drops charged', async () => {
  await fc.assert(fc.asyncProperty(fc.integer(), fc.boolean(), load, async (seed, intra, means) => {
    const work = onTime(randomWork(seed, 240, intra, means));
    const { trace } = await play(work, 'hold-time');
    const measured = measuredWork(trace, work.graph, slotUs, 'hold-time', defaultBufferDepths);
    const { agreement, policyAgreement, dropped, countByCharge } = attribute(trace, measured);
    expect(agreement).toBe(1);
    // What it gave up it did not measure: a choice that hung on a hair may go otherwise.
    expect(policyAgreement).toBeGreaterThanOrEqual(0.95);
    expect(Object.values(countByCharge).reduce((sum, count) => sum + count, 0)).toBe(dropped);
    for (let slot = 0; slot < trace.length; slot++) if (trace.state[slot] !== slotState.dropped) expect(measured.work.process[slot]).toBeCloseTo(work.process[slot]!, 1);
  }), { numRuns: 20 });
});
