import type { Frame, Packet } from 'node-av/lib';
import { frameIndex, type FrameIndex } from '@/core/media/frameIndex';
import { isDisposable } from '@/core/media/packetTable';
import { monotonicUs } from '../clock';
import { DecodeError } from '../decodeFailure';
import { Decoder, packetOfRow, type OpenDecoder, type VideoDecoder } from './decoder';
import { plainReader, type BytesReader, type ClipSource } from '../media/plainReader';
import { FaultLog } from './faultLog';
import type { OpenMedia } from './openMedia';
import { LossWatch } from './lossWatch';

/** What fetching frames cost so far. */
export interface AccessCost {
  readUs: number;
  decodeUs: number;
  bytes: number;
  /** packets decoded */ packets: number;
}

/** Bytes of decoded frames that one clip may keep for stepping and going backwards. */
const mostKeptBytes = 192e6;
const mostKeptFrames = 48;

/**
 * Any frame of one clip, in any order. Going forward it decodes no frame
 * twice; going backward it keeps a group's frames as far as there is room.
 */
export class FrameAccess {
  private readonly index: FrameIndex;
  private readonly kept = new Map<number, Frame>();
  private readonly mostKept: number;
  private decoder: Promise<VideoDecoder> | null = null;
  private reader: ReturnType<OpenMedia['openReader']> | null = null;
  /** Next row to hand over; -1: the decoder is empty. */
  private cursor = -1;
  /** Row that the decoder began at. */
  private begun = -1;
  /** Frames whose packets were left out since the decoder began anew. */
  private readonly leftOut = new Set<number>();
  private highest = -1;
  private ended = false;
  private last = -1;
  private readonly losses: LossWatch;
  /** Why a frame was not decoded, the last time. */
  failure: Error | null = null;
  readonly cost: AccessCost = { readUs: 0, decodeUs: 0, bytes: 0, packets: 0 };

  constructor(
    private readonly media: Pick<OpenMedia, 'setup' | 'rate' | 'packets' | 'name' | 'faults' | 'openReader'>,
    private readonly threads: number,
    private readonly openDecoder: OpenDecoder = (options) =>
      Decoder.open(media.setup, { ...options, rate: media.rate, clipName: media.name }),
  ) {
    this.index = frameIndex(media.packets);
    this.losses = new LossWatch(media.faults, this.index.intra);
    const frameBytes = media.setup.width * media.setup.height * 4;
    // A frame that stands alone is decoded again as soon as it is read; pictures that are kept would only have each next one lie in new memory.
    this.mostKept = this.index.intra
      ? 2
      : Math.max(2, Math.min(mostKeptFrames, Math.floor(mostKeptBytes / frameBytes)));
  }

  /**
   * Of a clip by itself.
   * @param reader closed with it; absent: the file as it is
   * @param threads of the decoder; 0: one per core
   * @throws EngineError when the file cannot be opened
   */
  static async open(source: ClipSource, reader?: BytesReader, threads = 0): Promise<FrameAccess> {
    const bytes = reader ?? (await plainReader(source));
    const faults = new FaultLog(source.packets);
    const access = new FrameAccess({ ...source, faults, openReader: () => Promise.resolve(bytes) }, threads);
    access.reader = Promise.resolve(bytes);
    return access;
  }

  /** Frames from the key frame that a frame is decoded from, in decode order: what it costs to jump there. */
  distanceFromKey(frame: number): number {
    return (this.index.lastRow[frame] as number) - (this.index.keyRow[frame] as number);
  }

  /**
   * One frame; the caller frees it. Null when `isStale` said so on the way, or the decoder did not give it.
   * @throws EngineError when the clip cannot be read, DecodeError when its decoder does not open
   */
  async frame(wanted: number, isStale: () => boolean = () => false): Promise<Frame | null> {
    const backward = wanted < this.last;
    this.last = wanted;
    const there = this.kept.get(wanted);
    if (there) {
      // Anew at the end: the one that was looked at last.
      this.kept.delete(wanted);
      this.kept.set(wanted, there);
      return there.clone();
    }
    const decoder = await this.openedFor(wanted);
    const { keyRow, table } = this.index;
    if (!this.goesOn(wanted)) {
      if (this.cursor >= 0) {
        decoder.flush();
        decoder.refusals.forget();
        this.losses.beganAnew();
      }
      this.cursor = this.begun = keyRow[wanted] as number;
      this.highest = -1;
      this.ended = false;
      this.leftOut.clear();
    }
    const firstKept = backward ? wanted - this.mostKept + 1 : wanted;
    while (!this.kept.has(wanted) && this.highest < wanted && !this.ended) {
      if (isStale()) return null;
      if (this.cursor >= table.length) {
        await this.drain(decoder, firstKept, wanted);
        break;
      }
      const at = this.cursor++;
      const shown = table.slot[at] as number;
      // What nothing refers to and nobody asked for need not be decoded; what comes after the wanted frame is kept for the next step.
      if (isDisposable(table, at) && shown < firstKept) {
        this.leftOut.add(shown);
        continue;
      }
      const packet = await this.read(at);
      await this.decode(decoder, packet, firstKept);
      packet.free();
    }
    this.forgetFar(wanted);
    const frame = this.kept.get(wanted)?.clone() ?? null;
    if (!frame) this.failure = decoder.refusals.failure ?? this.failure;
    return frame;
  }

  /** The decoder. A frame that is asked for in vain, since it refuses the clip, is a fault of the clip. */
  private async openedFor(wanted: number): Promise<VideoDecoder> {
    this.decoder ??= this.openDecoder({ threads: this.threads, lowDelay: true });
    try {
      return await this.decoder;
    } catch (error) {
      if (error instanceof DecodeError) {
        this.failure = error;
        this.media.faults.note(wanted, error.refusal);
      }
      throw error;
    }
  }

  /** True when the decoder need only go on to reach the frame. */
  private goesOn(wanted: number): boolean {
    if (this.cursor < 0 || this.ended) return false;
    if (this.index.intra) return (this.index.row[wanted] as number) === this.cursor;
    const key = this.index.keyRow[wanted] as number;
    // What was begun after the frame's own key frame never comes to it.
    return wanted > this.highest && key >= this.begun && key <= this.cursor && !this.leftOut.has(wanted);
  }

  private async read(at: number): Promise<Packet> {
    const { table } = this.index;
    const begun = monotonicUs();
    const reader = await (this.reader ??= this.media.openReader());
    const data = await reader.read(table.offset[at] as number, table.size[at] as number);
    const packet = packetOfRow(this.media, at, data);
    this.cost.readUs += monotonicUs() - begun;
    this.cost.bytes += data.length;
    return packet;
  }

  private async decode(decoder: VideoDecoder, packet: Packet, firstKept: number): Promise<void> {
    const begun = monotonicUs();
    this.losses.sent(Number(packet.pts));
    while (!(await decoder.send(packet))) await this.takeAll(decoder, firstKept);
    await this.takeAll(decoder, firstKept);
    this.cost.decodeUs += monotonicUs() - begun;
    this.cost.packets++;
  }

  private async drain(decoder: VideoDecoder, firstKept: number, wanted: number): Promise<void> {
    const begun = monotonicUs();
    await decoder.send(null);
    await this.takeAll(decoder, Math.min(firstKept, wanted));
    this.losses.ended(decoder);
    this.cost.decodeUs += monotonicUs() - begun;
    this.ended = true;
  }

  private async takeAll(decoder: VideoDecoder, firstKept: number): Promise<void> {
    for (let frame = await decoder.receive(); frame; frame = await decoder.receive()) {
      const number = Number(frame.pts);
      this.highest = Math.max(this.highest, number);
      this.losses.came(frame, decoder);
      if (number < firstKept) {
        frame.free();
        continue;
      }
      this.kept.get(number)?.free();
      this.kept.set(number, frame);
    }
  }

  /** Keeps the frames nearest to the last wanted one; of those that stand alone, the ones that were looked at last. */
  private forgetFar(wanted: number): void {
    if (this.kept.size <= this.mostKept) return;
    const numbers = [...this.kept.keys()];
    if (!this.index.intra) numbers.sort((a, b) => Math.abs(b - wanted) - Math.abs(a - wanted));
    for (const number of numbers.slice(0, this.kept.size - this.mostKept)) {
      this.kept.get(number)?.free();
      this.kept.delete(number);
    }
  }

  async close(): Promise<void> {
    for (const frame of this.kept.values()) frame.free();
    this.kept.clear();
    (await this.decoder?.catch(() => null))?.close();
    await (await this.reader?.catch(() => null))?.close();
  }
}
