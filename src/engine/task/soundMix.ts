import { AVDISCARD_ALL, AVMEDIA_TYPE_AUDIO, AVSEEK_FLAG_BACKWARD } from 'node-av/constants';
import {
  avGetSampleFmtName,
  Codec,
  CodecContext,
  FilterGraph,
  Frame,
  Packet,
  type FilterContext,
  type Stream,
} from 'node-av/lib';
import { gainAt, soundRate, type SoundPart } from '@/core/tasks/soundPlan';
import { EngineError } from '../errors';
import { MediaFile } from '../media/container';

const channels = 2;

/** A clip's first sound track, decoded and resampled to stereo floats. */
export class SoundReader {
  private readonly packet = new Packet();
  private readonly frame = new Frame();
  /** Samples that were made and not taken, with the position of the first. */
  private rest = new Float32Array(0);
  private position: number | null = null;
  private ended = false;

  private constructor(
    private readonly file: MediaFile,
    private readonly stream: Stream,
    private readonly decoder: CodecContext,
    private readonly graph: FilterGraph,
    private readonly into: FilterContext,
    private readonly out: FilterContext,
    private readonly from: number,
  ) {
    this.packet.alloc();
    this.frame.alloc();
  }

  /** @returns null where the clip has no sound that can be decoded here */
  static async open(path: string, fromSeconds: number): Promise<SoundReader | null> {
    const file = await MediaFile.open(path);
    if (!file) return null;
    const { input } = file;
    await input.findStreamInfo();
    const stream = input.streams[input.findBestStream(AVMEDIA_TYPE_AUDIO)];
    const codec = stream && Codec.findDecoder(stream.codecpar.codecId);
    const decoder = new CodecContext();
    if (codec) {
      decoder.allocContext3(codec);
      decoder.parametersToContext(stream.codecpar);
      decoder.pktTimebase = stream.timeBase;
    }
    if (!stream || !codec || (await decoder.open2(codec)) < 0) {
      await file.close();
      return null;
    }
    for (const other of input.streams) if (other.index !== stream.index) other.discard = AVDISCARD_ALL;
    const graph = new FilterGraph();
    graph.alloc();
    const { num, den } = stream.timeBase;
    const format = avGetSampleFmtName(decoder.sampleFormat) ?? 'flt';
    const layout = `${decoder.channelLayout.nbChannels}c`;
    const code = graph.parsePtr(
      `abuffer@in=time_base=${num}/${den}:sample_rate=${decoder.sampleRate}:sample_fmt=${format}:channel_layout=${layout},aresample=${soundRate}:async=1:first_pts=0,aformat=sample_fmts=flt:channel_layouts=stereo,abuffersink@out`,
    );
    const [into, sink] = [graph.getFilter('abuffer@in'), graph.getFilter('abuffersink@out')];
    if (code < 0 || (await graph.config()) < 0 || !into || !sink)
      throw new EngineError('sound-not-resampled', { path, code });
    if (fromSeconds > 0)
      await input.seekFrame(
        stream.index,
        BigInt(Math.floor((fromSeconds * den) / num)),
        AVSEEK_FLAG_BACKWARD,
      );
    return new SoundReader(file, stream, decoder, graph, into, sink, Math.round(fromSeconds * soundRate));
  }

  /** The next samples, both channels by turns; silence where the clip has none. */
  async take(samples: number): Promise<Float32Array> {
    const taken = new Float32Array(samples * channels);
    let at = 0;
    while (at < samples) {
      if (this.rest.length === 0 && !(await this.more())) break;
      const count = Math.min(samples - at, this.rest.length / channels);
      taken.set(this.rest.subarray(0, count * channels), at * channels);
      this.rest = this.rest.subarray(count * channels);
      at += count;
    }
    return taken;
  }

  /** Makes samples; false at the end. */
  private async more(): Promise<boolean> {
    for (;;) {
      if ((await this.out.buffersinkGetFrame(this.frame)) >= 0) {
        this.keep();
        if (this.rest.length > 0) return true;
        continue;
      }
      if (this.ended) return false;
      const code = await this.file.input.readFrame(this.packet);
      if (code >= 0 && this.packet.streamIndex !== this.stream.index) {
        this.packet.unref();
        continue;
      }
      this.ended = code < 0;
      await this.decoder.sendPacket(this.ended ? null : this.packet);
      this.packet.unref();
      while ((await this.decoder.receiveFrame(this.frame)) >= 0) {
        this.into.buffersrcAddFrameSync(this.frame);
        this.frame.unref();
      }
      if (this.ended) this.into.buffersrcAddFrameSync(null);
    }
  }

  /** Keeps what a frame has from where the part begins; silence where it begins later. */
  private keep(): void {
    const { data, nbSamples, pts } = this.frame;
    const [plane] = data ?? [];
    if (plane) {
      const samples = new Float32Array(
        plane.buffer.slice(plane.byteOffset, plane.byteOffset + nbSamples * channels * 4),
      );
      const begin = this.position ?? Number(pts);
      const late = this.position === null ? Math.max(0, begin - this.from) : 0;
      const skip = this.position === null ? Math.max(0, this.from - begin) : 0;
      if (skip >= nbSamples) this.position = null;
      else {
        this.position = begin + nbSamples;
        this.rest = new Float32Array(late * channels + (nbSamples - skip) * channels);
        this.rest.set(samples.subarray(skip * channels), late * channels);
      }
    }
    this.frame.unref();
  }

  async close(): Promise<void> {
    this.graph.free();
    this.decoder.freeContext();
    this.packet.free();
    this.frame.free();
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
      if (taken) addTo(mixed, taken, part, first, begin);
      if (last === part.at + part.samples) {
        await reader?.close();
        this.open.set(part, null);
      }
    }
    this.at = end;
    return mixed.map((value) => Math.max(-1, Math.min(1, value)));
  }

  async close(): Promise<void> {
    for (const reader of this.open.values()) await reader?.close();
    this.open.clear();
  }
}

function addTo(
  mixed: Float32Array,
  taken: Float32Array,
  part: SoundPart,
  first: number,
  begin: number,
): void {
  const offset = (first - begin) * channels;
  for (let at = 0; at < taken.length; at += channels) {
    const gain = gainAt(part, first - part.at + at / channels);
    for (let channel = 0; channel < channels; channel++) {
      const to = offset + at + channel;
      mixed[to] = (mixed[to] as number) + (taken[at + channel] as number) * gain;
    }
  }
}
