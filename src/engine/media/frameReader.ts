import type { Frame } from 'node-av/lib';
import { frameIndex, type FrameIndex } from '@/core/media/frameIndex';
import type { PacketTable } from '@/core/media/packetTable';
import type { Rational } from '@/core/time/rational';
import { fileError } from '../errors';
import { openInPlace } from '../inPlace';
import { hasFiles } from './joinedFiles';
import { openMedia } from './mediaBytes';
import { Decoder, packetOfRow } from '../playback/decoder';
import type { CodecSetup } from './streamFacts';

/** What is needed to decode frames of an indexed clip. */
export interface ClipSource {
  readonly path: string;
  readonly setup: CodecSetup;
  readonly rate: Rational;
  readonly packets: PacketTable;
}

/** Where a clip's bytes come from. What it gives is valid until the next read. */
export interface BytesReader {
  read(offset: number, bytes: number): Promise<Buffer>;
  close(): Promise<void>;
}

/** A clip as it is, through the system's cache. @throws EngineError when the file cannot be opened */
export async function plainReader(
  clip: Pick<ClipSource, 'path' | 'setup' | 'packets'>,
): Promise<BytesReader> {
  const { path } = clip;
  if (hasFiles(clip.setup)) return openMedia(clip, 'warm');
  const file = await openInPlace(path).catch((error: unknown) => {
    throw fileError(error, path);
  });
  return {
    read: async (offset, bytes) => {
      const data = Buffer.alloc(bytes);
      await file.read(data, 0, bytes, offset);
      return data;
    },
    close: () => file.close(),
  };
}

/** Frames of a clip by their number, decoded from the key frame before; asking in order decodes none twice. */
export class FrameReader {
  private readonly index: FrameIndex;
  private decoder: Decoder | null = null;
  private next = 0;
  private ended = false;
  /** The last slot that was asked for. */
  private passed = -1;
  private readonly ahead = new Map<number, Frame>();

  private constructor(
    private readonly source: ClipSource,
    private readonly file: BytesReader,
    private readonly threads: number,
  ) {
    this.index = frameIndex(source.packets);
  }

  /**
   * @param reader closed with it; absent: the file as it is
   * @param threads of the decoder; 0: one per core
   * @throws EngineError when the file cannot be opened
   */
  static async open(source: ClipSource, reader?: BytesReader, threads = 0): Promise<FrameReader> {
    return new FrameReader(source, reader ?? (await plainReader(source)), threads);
  }

  /**
   * The frame shown at a slot, or null when the decoder gives none for it. The caller frees it.
   * @throws EngineError when the data cannot be decoded
   */
  async frame(slot: number): Promise<Frame | null> {
    const row = this.index.row[slot] ?? 0;
    const key = this.index.keyRow[slot] ?? 0;
    const waiting = this.take(slot);
    if (waiting) {
      this.passed = slot;
      return waiting;
    }
    // Going on is cheaper than beginning again at a key frame behind; what was given or passed over does not come again.
    if (!this.decoder || this.ended || slot <= this.passed || key > this.next) await this.begin(key);
    this.passed = slot;
    while (!this.ended) {
      await this.feed();
      const found = this.take(slot);
      if (found) return found;
      if (this.ahead.size > 64 && this.next > row + 64) return null;
    }
    return this.take(slot);
  }

  private take(slot: number): Frame | null {
    const found = this.ahead.get(slot) ?? null;
    for (const [number, frame] of this.ahead) {
      if (number > slot) continue;
      if (number < slot) frame.free();
      this.ahead.delete(number);
    }
    return found;
  }

  private async begin(key: number): Promise<void> {
    this.clear();
    this.decoder = await Decoder.open(this.source.setup, {
      threads: this.threads,
      lowDelay: true,
      rate: this.source.rate,
    });
    this.next = key;
    this.ended = false;
  }

  private async feed(): Promise<void> {
    const { decoder } = this;
    const { packets } = this.source;
    if (!decoder) return;
    if (this.next >= packets.length) {
      await decoder.send(null);
      this.ended = true;
    } else {
      const data = await this.file.read(packets.offset[this.next] ?? 0, packets.size[this.next] ?? 0);
      const packet = packetOfRow(this.source, this.next, data);
      await decoder.send(packet);
      packet.free();
      this.next++;
    }
    for (let frame = await decoder.receive(); frame; frame = await decoder.receive()) {
      const number = Number(frame.pts);
      this.ahead.get(number)?.free();
      this.ahead.set(number, frame);
    }
  }

  private clear(): void {
    for (const frame of this.ahead.values()) frame.free();
    this.ahead.clear();
    this.decoder?.close();
    this.decoder = null;
  }

  async close(): Promise<void> {
    this.clear();
    await this.file.close();
  }
}
