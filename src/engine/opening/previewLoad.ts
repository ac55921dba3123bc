import type { DrawnMeanwhile } from '@/core/playback/conditions';
import { monotonicUs, sleepUs } from '../clock';
import { Lane } from './lane';
import type { LaneClip } from './laneShared';

/** Of clips of which nothing can be drawn another round is begun so much later. */
const idleUs = 500_000;

/** Draws thumbnails and sound peaks of clips, round and round, on a thread of its own: what sessions do beside playback. */
export class PreviewLoad {
  private readonly stopWord = new SharedArrayBuffer(4);
  private readonly begun = new SharedArrayBuffer(8);
  private readonly lane: Lane;
  private readonly drawn = { clips: 0, strips: 0, sounds: 0, bytes: 0 };
  private round: Promise<void> | null = null;
  private problem: string | null = null;

  /** @param lanePath of `openingLane`, bundled */
  private constructor(threads: number, lanePath: URL) {
    const start = { threads, direct: true, stop: this.stopWord, begun: this.begun };
    this.lane = new Lane(lanePath, start, (message) => {
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
    new Float64Array(this.begun)[0] = monotonicUs();
    this.round ??= this.goRound(clips).catch((error: unknown) => {
      this.problem = error instanceof Error ? error.message : String(error);
    });
  }

  private get isStopped(): boolean {
    return Atomics.load(new Int32Array(this.stopWord), 0) !== 0;
  }

  private async goRound(clips: readonly LaneClip[]): Promise<void> {
    while (!this.isStopped) {
      const before = this.drawn.bytes;
      for (const clip of clips) {
        if (this.isStopped) return;
        await this.lane.do({ type: 'whole', clip });
        if (!this.isStopped) this.drawn.clips++;
      }
      if (this.drawn.bytes === before) await sleepUs(idleUs);
    }
  }

  /** Ends it between two pictures. @returns what was drawn */
  async stop(): Promise<DrawnMeanwhile> {
    const word = new Int32Array(this.stopWord);
    Atomics.store(word, 0, 1);
    Atomics.notify(word, 0);
    await this.round;
    await this.lane.end();
    const seconds = this.round ? (monotonicUs() - (new Float64Array(this.begun)[0] as number)) / 1e6 : 0;
    return { ...this.drawn, seconds, problem: this.problem };
  }
}
