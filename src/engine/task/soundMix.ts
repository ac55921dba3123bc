import { AVDISCARD_ALL, AVMEDIA_TYPE_AUDIO, AVSEEK_FLAG_BACKWARD } from 'node-av/constants';
import { Packet, type Stream } from 'node-av/lib';
import type { SoundPart } from '@/core/tasks/soundPlan';
import { channels, contextOfStream, noTime, SoundDecoder } from '../codec/soundDecoder';
import { MediaFile } from '../media/container';
import { limit, mixInto } from '../sound/slotSound';

/** A clip's first sound track, decoded and resampled to stereo floats. */
export class SoundReader {
  private readonly packet = new Packet();
  private ended = false;

  private constructor(
    private readonly file: MediaFile,
    private readonly stream: Stream,
    private readonly decoder: SoundDecoder,
    /** Where it begins, in ticks of the stream. */
    private readonly from: bigint,
  ) {
    this.packet.alloc();
  }

  /** @returns null where the clip has no sound that can be decoded here */
  static async open(path: string, fromSeconds: number): Promise<SoundReader | null> {
    const file = await MediaFile.open(path);
    if (!file) return null;
    const { input } = file;
    await input.findStreamInfo();
    const stream = input.streams[input.findBestStream(AVMEDIA_TYPE_AUDIO)];
    const context = stream ? contextOfStream(stream, path) : null;
    const decoder = context && SoundDecoder.open(context);
    if (!stream || !decoder) {
      await file.close();
      return null;
    }
    for (const other of input.streams) if (other.index !== stream.index) other.discard = AVDISCARD_ALL;
    const { num, den } = stream.timeBase;
    const from = BigInt(Math.round((fromSeconds * den) / num));
    if (fromSeconds > 0)
      await input.seekFrame(
        stream.index,
        BigInt(Math.floor((fromSeconds * den) / num)),
        AVSEEK_FLAG_BACKWARD,
      );
    return new SoundReader(file, stream, decoder, from);
  }

  /** The next samples, both channels by turns; silence where the clip has none. */
  async take(samples: number): Promise<Float32Array> {
    while (this.decoder.ready < samples && (await this.more()));
    return this.decoder.take(samples);
  }

  /** Makes samples; false at the end. */
  private async more(): Promise<boolean> {
    if (this.ended) return false;
    const code = await this.file.input.readFrame(this.packet);
    if (code < 0 || this.packet.streamIndex === this.stream.index) {
      this.ended = code < 0;
      if (this.packet.pts !== noTime) this.packet.pts -= this.from;
      this.decoder.decode(this.ended ? null : this.packet);
      this.decoder.resample();
    }
    this.packet.unref();
    return true;
  }

  async close(): Promise<void> {
    this.decoder.close();
    this.packet.free();
    await this.file.close();
  }
}

/** Mixes the sound of what is made, block by block in their order. */
export class SoundMix {
  private readonly open = new Map<SoundPart, SoundReader | null>();
  private at = 0;

  private constructor(
    private readonly parts: readonly SoundPart[],
    private readonly pathOf: (media: string) => string | null,
    /** Clips that have sound. */
    readonly sources: number,
  ) {}

  /** @returns null where nothing that is made has sound */
  static async open(
    parts: readonly SoundPart[],
    pathOf: (media: string) => string | null,
  ): Promise<SoundMix | null> {
    const sounding = new Set<string>();
    for (const media of new Set(parts.map((part) => part.media))) {
      const path = pathOf(media);
      const reader = path === null ? null : await SoundReader.open(path, 0);
      if (reader) sounding.add(media);
      await reader?.close();
    }
    const used = parts.filter(({ media }) => sounding.has(media));
    return used.length > 0 ? new SoundMix(used, pathOf, sounding.size) : null;
  }

  /** The next samples of both channels by turns, within -1 to 1. */
  async block(samples: number): Promise<Float32Array> {
    const mixed = new Float32Array(samples * channels);
    const [begin, end] = [this.at, this.at + samples];
    for (const part of this.parts) {
      const [first, last] = [Math.max(begin, part.at), Math.min(end, part.at + part.samples)];
      if (last <= first) continue;
      const path = this.pathOf(part.media);
      if (!this.open.has(part))
        this.open.set(part, path === null ? null : await SoundReader.open(path, part.fromSeconds));
      const reader = this.open.get(part);
      const taken = await reader?.take(last - first);
      if (taken) mixInto(mixed, taken, part, first - part.at, (first - begin) * channels);
      if (last === part.at + part.samples) {
        await reader?.close();
        this.open.set(part, null);
      }
    }
    this.at = end;
    limit(mixed);
    return mixed;
  }

  async close(): Promise<void> {
    for (const reader of this.open.values()) await reader?.close();
    this.open.clear();
  }
}
