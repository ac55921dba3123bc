import { columnNames, emptyBlocks, encodeBlocks, filterBlocks, type Blocks } from '@/core/storage/blocks';
import type { Actor, BlockRecord } from './blockShared';

const firstRoom = 4_096;

/** Collects the requests of a trial in the order they are told, and gives them out in batches. */
export class BlockRecorder {
  private blocks: Blocks = emptyBlocks(firstRoom);
  private count = 0;
  private given = 0;
  /** Bytes since the last look. */
  private moved = { read: 0, write: 0 };
  private lookedUs: number | null = null;
  /** µs of the trial at which the present run began. */
  private runBeganUs = 0;
  private repeat = 0;

  /** Notes that a repeat begins. @param startUs on the monotonic clock; @param trialBeganUs the first repeat's */
  beginRun(repeat: number, startUs: number, trialBeganUs: number): void {
    this.repeat = repeat;
    this.runBeganUs = startUs - trialBeganUs;
    this.lookedUs = startUs;
  }

  add(actor: Actor, { startUs, endUs, bytes, dueUs, hostLate }: BlockRecord): void {
    if (this.count === this.blocks.length) this.grow();
    const { blocks, count: at, runBeganUs } = this;
    const skipped = endUs === -Infinity;
    blocks.startUs[at] = runBeganUs + startUs;
    blocks.endUs[at] = runBeganUs + (skipped ? startUs : endUs);
    blocks.bytes[at] = bytes;
    blocks.dueUs[at] = runBeganUs + dueUs;
    blocks.stream[at] = actor.stream;
    blocks.repeat[at] = this.repeat;
    blocks.write[at] = actor.write ? 1 : 0;
    blocks.skipped[at] = skipped ? 1 : 0;
    blocks.hostLate[at] = hostLate ? 1 : 0;
    this.count++;
    if (!skipped) this.moved[actor.write ? 'write' : 'read'] += bytes;
  }

  /** The requests of one repeat. */
  blocksOf(repeat: number): Blocks {
    return filterBlocks(this.blocks, (row) => row < this.count && this.blocks.repeat[row] === repeat);
  }

  /** Bytes per second in each direction since the last call. */
  takeRates(nowUs: number): { readRate: number; writeRate: number } {
    const seconds = this.lookedUs === null ? 0 : (nowUs - this.lookedUs) / 1e6;
    const { read, write } = this.moved;
    this.lookedUs = nowUs;
    this.moved = { read: 0, write: 0 };
    return seconds > 0
      ? { readRate: read / seconds, writeRate: write / seconds }
      : { readRate: 0, writeRate: 0 };
  }

  /** What has been recorded since the last batch, or null. */
  takeBatch(): { from: number; count: number; data: Uint8Array } | null {
    const { given: from, count } = this;
    if (from === count) return null;
    this.given = count;
    return { from, count: count - from, data: encodeBlocks(this.blocks, from, count) };
  }

  private grow(): void {
    const larger = emptyBlocks(this.blocks.length * 2);
    for (const name of columnNames) larger[name].set(this.blocks[name]);
    this.blocks = larger;
  }
}
