import type { FeedRows, SlotRows } from '@/core/playback/backlog';
import type { Policy } from '@/core/playback/slots';
import type { Trace } from '@/core/playback/trace';
import type { FrameGraph, Work } from '@/core/playback/work';
import type { PlaySource, ShownFrame } from '../playback/playSource';
import { Player } from '../playback/player';
import { TraceRecorder } from '../playback/traceRecorder';
import { ViewerTap } from '../playback/viewerTap';
import { VirtualClock, virtualPresenter } from './virtualClock';
import type { InjectedFault } from '@/core/playback/injectedFault';

/** A source whose stages take the times of given work, and nothing else. */
class TimedSource implements PlaySource<number> {
  readonly faults = null;
  readonly failure = null;
  readonly frameCode = false;
  private readonly decoded: number[] = [];

  constructor(
    private readonly work: Work,
    private readonly clock: VirtualClock,
  ) {}

  private get graph(): FrameGraph {
    return this.work.graph;
  }

  /** A unit's time goes with its bytes; what a slot needs nothing for takes its own. */
  read({ slot, parts }: SlotRows): Promise<void> {
    const { read } = this.work;
    const bytes = parts?.reduce((sum, part) => sum + part.bytes, 0) ?? 0;
    if (!parts || bytes === 0) return this.clock.sleep(read[slot]!);
    return this.clock.sleep(
      parts.reduce(
        (sum, part) =>
          sum + (part.bytes > 0 ? (read[part.unit]! * part.bytes) / this.graph.bytes[part.unit]! : 0),
        0,
      ),
    );
  }

  /** A unit's time goes with its packets, all of one weight. */
  async decode(piece: readonly FeedRows[], slot: SlotRows | null): Promise<void> {
    const { decode } = this.work;
    const units = piece.flatMap((one) => one.units);
    const isEmpty = slot !== null && (slot.parts === null || slot.parts.every(({ weight }) => weight === 0));
    await this.clock.sleep(
      isEmpty
        ? decode[slot.slot]!
        : units.reduce((sum, unit) => sum + decode[unit]! / this.graph.weights[unit]!, 0),
    );
    if (slot) this.decoded.push(slot.slot);
  }

  get hasFrame(): boolean {
    return this.decoded.length > 0;
  }

  receive(): Promise<{ slot: number; decoded: number; isRefused: boolean }> {
    const slot = this.decoded.shift()!;
    return Promise.resolve({ slot, decoded: slot, isRefused: this.work.refused?.[slot] === 1 });
  }

  async process(slot: number): Promise<null> {
    await this.clock.sleep(this.work.process[slot]!);
    return null;
  }

  end(): Promise<void> {
    return Promise.resolve();
  }
  drop(): void {
    /* nothing is held */
  }
  release(): void {
    /* nothing is held */
  }
  shownFrame(slot: number): ShownFrame {
    return { frame: slot, isProved: false };
  }
  close(): Promise<void> {
    return Promise.resolve();
  }
}

/** Plays work with the player, with faults injected; the trace, and when t0 was after the first read, µs. */
export async function playTimed(
  work: Work,
  policy: Policy,
  faults: readonly InjectedFault[] = [],
): Promise<{ trace: Trace; startUs: number }> {
  const clock = new VirtualClock();
  const recorder = new TraceRecorder(work.graph.slotCount, work.graph.bytes);
  let startUs = Number.NaN;
  const player = new Player({
    source: new TimedSource(work, clock),
    graph: work.graph,
    recorder,
    viewer: new ViewerTap(() => undefined),
    slotUs: work.slotUs,
    clock,
    openPresenter: virtualPresenter(clock),
    settings: {
      scale: 'full',
      policy,
      threads: 0,
      warm: false,
      processing: true,
      buffers: work.buffers,
      slotLimit: null,
      faults,
    },
    onStart: (at) => {
      startUs = at;
    },
  });
  await clock.run(player.run());
  return { trace: recorder.finished(), startUs };
}

/** The faults of a joint drop: the later stage is held at a slot, the earlier one at the slot after it, until the same deadline. */
export function jointFaults(
  earlier: InjectedFault['stage'],
  later: InjectedFault['stage'],
  slot: number,
  slots: number,
): InjectedFault[] {
  return [
    { stage: later, slot, slots },
    { stage: earlier, slot: slot + 1, slots: slots - 1 },
  ];
}
