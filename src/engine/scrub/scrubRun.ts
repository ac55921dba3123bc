import type { ScrubRequest } from '@/core/scrub/analyse';
import type { Gesture } from '@/core/scrub/gesture';
import { hostClock, type Clock } from '../clock';
import type { SlotAccess } from '../timeline/slotAccess';

type Open = { -readonly [Key in keyof ScrubRequest]: ScrubRequest[Key] };

/**
 * Plays a gesture: asks for each slot at its time, and works on the newest request only. A request
 * that is overtaken is given up at the next stage boundary.
 */
export class ScrubRun {
  private readonly requests: Open[];
  /** Number of the newest request that has been made. */
  private newest = -1;
  private stopped = false;
  private startUs = 0;

  constructor(
    private readonly access: Pick<SlotAccess, 'fetch' | 'release'>,
    private readonly gesture: Gesture,
    private readonly onProgress: (share: number) => void,
    private readonly clock: Clock = hostClock,
  ) {
    this.requests = gesture.targets.map((target, at): Open => ({
      atMs: gesture.timesMs[at] as number,
      target,
      end: 'superseded',
      stoppedAfter: 'waiting',
      shownMs: null,
      readMs: 0,
      decodeMs: 0,
      processMs: 0,
      bytes: 0,
      packets: 0,
      fromKey: 0,
      wanted: -1,
      proved: null,
    }));
  }

  stop(): void {
    this.stopped = true;
  }

  /** @returns the requests that were made, with what became of each */
  async run(): Promise<ScrubRequest[]> {
    this.startUs = this.clock.now();
    const asking = this.ask();
    let served = -1;
    while (!this.stopped) {
      if (this.newest === served) {
        if (this.newest === this.requests.length - 1) break;
        await this.nextAsked();
        continue;
      }
      served = this.newest;
      await this.serve(served);
      this.onProgress((served + 1) / this.requests.length);
    }
    await asking;
    return this.requests.slice(0, this.newest + 1);
  }

  private wake: (() => void) | null = null;

  private nextAsked(): Promise<void> {
    return new Promise((resolve) => {
      this.wake = resolve;
    });
  }

  private sinceStartMs(): number {
    return (this.clock.now() - this.startUs) / 1000;
  }

  /** Makes each request at its time. */
  private async ask(): Promise<void> {
    for (let at = 0; at < this.requests.length && !this.stopped; at++) {
      const wait = (this.gesture.timesMs[at] as number) - this.sinceStartMs();
      if (wait > 0) await this.clock.sleep(wait * 1000);
      this.newest = at;
      const request = this.requests[at];
      // What a timer is late by is not the player's: latency counts from when the request was really made.
      if (request) request.atMs = this.sinceStartMs();
      this.wake?.();
      this.wake = null;
    }
    this.wake?.();
  }

  private async serve(number: number): Promise<void> {
    const request = this.requests[number] as Open;
    const isStale = () => this.newest > number || this.stopped;
    const fetched = await this.access.fetch(request.target, isStale, (stage) => {
      request.stoppedAfter = stage;
    });
    if (!fetched) return;
    Object.assign(request, {
      readMs: fetched.readUs / 1000,
      decodeMs: fetched.decodeUs / 1000,
      processMs: fetched.processUs / 1000,
      bytes: fetched.bytes,
      packets: fetched.packets,
      fromKey: fetched.fromKey,
      wanted: fetched.wanted,
      proved: fetched.proved,
    });
    this.access.release(fetched.picture);
    if (isStale()) {
      request.stoppedAfter = 'process';
      return;
    }
    if (fetched.isRefused) {
      request.end = 'refused';
      return;
    }
    request.shownMs = this.sinceStartMs();
    request.end = 'shown';
    request.stoppedAfter = null;
  }
}
