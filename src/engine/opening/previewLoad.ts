import type { DrawnMeanwhile } from '@/core/playback/conditions';
import type { PacketTable } from '@/core/media/packetTable';
import { sleepUs } from '../clock';
import { Lane, LaneSignals } from './lane';
import type { LaneClip } from './laneShared';

/** Of clips of which nothing can be drawn another round is begun so much later. */
const idleUs = 500_000;

/** Draws thumbnails and sound peaks of clips, round and round, on a thread of its own: what sessions do beside playback. */
export class PreviewLoad {
  private readonly signals = new LaneSignals();
  private readonly lane: Lane;
  private readonly drawn = { clips: 0, strips: 0, sounds: 0, bytes: 0 };
  private round: Promise<void> | null = null;
  private problem: string | null = null;

  /** @param lanePath of `openingLane`, bundled */
  private constructor(threads: number, lanePath: URL) {
    this.lane = new Lane(lanePath, this.signals, { threads, direct: true }, (message) => {
      if (message.type === 'done') return;
      this.drawn.bytes += message.step.bytes;
      if (message.part === 'pictures') this.drawn.strips++;
      if (message.part === 'sound') this.drawn.sounds++;
    });
  }

  /** Resolves when its thread is up. */
  static async open(threads: number, lanePath: URL): Promise<PreviewLoad> {
    const load = new PreviewLoad(threads, lanePath);
    await load.lane.up;
    return load;
  }

  start(clips: readonly LaneClip[]): void {
    this.signals.begin();
    this.round ??= this.goRound(clips.map(inSharedMemory)).catch((error: unknown) => {
      this.problem = error instanceof Error ? error.message : String(error);
    });
  }

  private async goRound(clips: readonly LaneClip[]): Promise<void> {
    while (!this.signals.isEnded) {
      const before = this.drawn.bytes;
      for (const clip of clips) {
        if (this.signals.isEnded) return;
        await this.lane.do({ type: 'whole', clip });
        if (!this.signals.isEnded) this.drawn.clips++;
      }
      if (this.drawn.bytes === before) await sleepUs(idleUs);
    }
  }

  /** Ends it between two pictures. @returns what was drawn */
  async stop(): Promise<DrawnMeanwhile> {
    this.signals.end();
    await this.round;
    await this.lane.end();
    const seconds = this.round ? this.signals.us / 1e6 : 0;
    return { ...this.drawn, seconds, problem: this.problem };
  }
}

/** The clip with its table in memory that threads share: it is posted round after round, and would be copied beside the player each time. */
function inSharedMemory(clip: LaneClip): LaneClip {
  const { length, inside, ...columns } = clip.packets;
  const packets = {
    length,
    ...sharedColumns(columns),
    ...(inside && { inside: sharedColumns({ ...inside }) }),
  } as PacketTable;
  return { ...clip, packets };
}

type Column = Float64Array | Uint32Array | Uint8Array;

function sharedColumns(columns: Readonly<Record<string, Column>>): Record<string, Column> {
  return Object.fromEntries(Object.entries(columns).map(([name, column]) => [name, sharedColumn(column)]));
}

function sharedColumn(column: Column): Column {
  const memory = new SharedArrayBuffer(column.byteLength);
  new Uint8Array(memory).set(new Uint8Array(column.buffer, column.byteOffset, column.byteLength));
  return new (column.constructor as new (memory: SharedArrayBuffer) => Column)(memory);
}
