import type { Frame, Packet, Rational, Stream } from 'node-av/lib';
import type { StandInTimes } from '@/core/tasks/encodeDevices';
import { monotonicUs, sleepUs } from '../clock';
import type { PictureEncoder } from '../codec/pictureEncoder';
import { AheadReader } from './aheadFile';

/**
 * A made-up encode device. Its packets were truly encoded before, in software, of the same pictures; it gives them out at
 * the times of its model and takes next to no processor time for it.
 */
export class StandInEncoder implements PictureEncoder {
  private sent = 0;
  private ended = false;
  /** When it is done with the last picture. */
  private readyUs: number | null = null;
  /** By how much the system's clock woke it too late the last time: it would have begun with the next picture. */
  private lateUs = 0;

  private constructor(
    private readonly packets: AheadReader,
    private readonly times: StandInTimes,
    private readonly onSlept: (us: number) => void,
  ) {}

  /** @param onSlept told of waits in which nothing worked @throws EngineError when nothing was encoded ahead there */
  static async open(
    folder: string,
    times: StandInTimes,
    onSlept: (us: number) => void,
  ): Promise<StandInEncoder> {
    return new StandInEncoder(await AheadReader.open(folder), times, onSlept);
  }

  get timeBase(): Rational {
    return this.packets.timeBase;
  }

  async send(_: Frame): Promise<void> {
    const nowUs = monotonicUs();
    const freeUs = this.readyUs ?? nowUs + this.times.startUs;
    this.readyUs = Math.max(freeUs, nowUs - this.lateUs) + this.times.frameUs;
    await sleepUs(this.readyUs - nowUs);
    const wokenUs = monotonicUs();
    this.onSlept(wokenUs - nowUs);
    this.lateUs = Math.max(0, wokenUs - this.readyUs);
    this.sent++;
  }

  finish(): Promise<void> {
    this.ended = true;
    return Promise.resolve();
  }

  async received(most: number): Promise<Packet[]> {
    const packets: Packet[] = [];
    while (packets.length < most) {
      const packet = await this.packets.take(this.ended ? Infinity : this.sent);
      if (!packet) break;
      packets.push(packet);
    }
    return packets;
  }

  describe(track: Stream): void {
    this.packets.describe(track);
  }

  free(): void {
    void this.packets.close();
  }
}
