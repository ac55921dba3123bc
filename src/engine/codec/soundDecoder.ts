import {
  AVERROR_EAGAIN,
  AVMEDIA_TYPE_AUDIO,
  type AVCodecID,
  type AVProfile,
  type AVSampleFormat,
} from 'node-av/constants';
import {
  avChannelLayoutDefault,
  avGetSampleFmtName,
  Codec,
  CodecContext,
  FilterGraph,
  Frame,
  Rational,
  type FilterContext,
  type Packet,
  type Stream,
} from 'node-av/lib';
import { soundRate } from '@/core/tasks/soundPlan';
import type { SoundSetup } from '../media/streamFacts';
import { contextWith } from './codecContext';
import { EngineError } from '../errors';

export const channels = 2;

/** No time is known: the codec library's own mark. */
export const noTime = -(2n ** 63n);
/** Where so many frames have no time, none has: they begin where it begins. */
const mostUntimed = 32;

/** A decoder's context of sound, not opened yet; null where there is no decoder. */
export interface SoundContext {
  readonly context: CodecContext;
  readonly codec: Codec;
  /** Of its packets' times. */
  readonly timeBase: { readonly num: number; readonly den: number };
  /** As messages name it. */
  readonly name: string;
}

/** For a stream of an open container. */
export function contextOfStream(stream: Stream, name: string): SoundContext | null {
  const codec = Codec.findDecoder(stream.codecpar.codecId);
  if (!codec) return null;
  const context = new CodecContext();
  context.allocContext3(codec);
  context.parametersToContext(stream.codecpar);
  const { num, den } = stream.timeBase;
  context.pktTimebase = stream.timeBase;
  return { context, codec, timeBase: { num, den }, name };
}

/** For sound that a scan noted; times of its packets count samples. */
export function contextOfSetup(setup: SoundSetup, name: string): SoundContext | null {
  const codec = Codec.findDecoder(setup.codecId as AVCodecID);
  if (!codec) return null;
  const context = contextWith(codec, {
    codecType: AVMEDIA_TYPE_AUDIO,
    codecId: codec.id,
    codecTag: setup.codecTag,
    format: setup.sampleFormat as AVSampleFormat,
    sampleRate: setup.sampleRate,
    channelLayout: avChannelLayoutDefault(setup.channels),
    profile: setup.profile as AVProfile,
    bitsPerCodedSample: setup.bitsPerCodedSample,
    extradata: setup.extradata ? Buffer.from(setup.extradata, 'base64') : null,
  });
  const timeBase = { num: 1, den: setup.sampleRate };
  context.pktTimebase = new Rational(timeBase.num, timeBase.den);
  return { context, codec, timeBase, name };
}

/**
 * Decodes sound and resamples it to stereo floats at 48 kHz, on the thread that asks. What comes out begins at time 0 of its packets:
 * what lies before is left out, and silence stands where there is none.
 */
export class SoundDecoder {
  private readonly frame = new Frame();
  private readonly decoded: Frame[] = [];
  /** Samples that were made and not taken, both channels by turns. */
  private made: Float32Array[] = [];
  private samples = 0;
  private graph: {
    readonly filters: FilterGraph;
    readonly into: FilterContext;
    readonly out: FilterContext;
  } | null = null;
  private ended = false;
  /** Frames without a time, left out before the first that has one: where they belong is not known. */
  private untimed = 0;

  private constructor(private readonly of: SoundContext) {
    this.frame.alloc();
  }

  /** @returns null where the codec does not open */
  static open(of: SoundContext): SoundDecoder | null {
    if (of.context.open2Sync(of.codec) >= 0) return new SoundDecoder(of);
    of.context.freeContext();
    return null;
  }

  /** Samples of each channel that can be taken. */
  get ready(): number {
    return this.samples;
  }

  /**
   * Decodes a packet, which stays the caller's; null: no more will come. What it gives waits to be resampled.
   * @returns false where the decoder refused some of it
   */
  decode(packet: Packet | null): boolean {
    const { context } = this.of;
    const sent = context.sendPacketSync(packet);
    this.ended ||= packet === null;
    let code = 0;
    while ((code = context.receiveFrameSync(this.frame)) >= 0) {
      const frame = new Frame();
      frame.alloc();
      frame.ref(this.frame);
      this.decoded.push(frame);
      this.frame.unref();
    }
    return sent >= 0 && (packet === null || code === AVERROR_EAGAIN);
  }

  /** Resamples what was decoded. @throws EngineError where it cannot be */
  resample(): void {
    for (const frame of this.decoded.splice(0)) {
      if (!this.graph && frame.pts === noTime && ++this.untimed < mostUntimed) {
        frame.free();
        continue;
      }
      (this.graph ?? this.openGraph(frame)).into.buffersrcAddFrameSync(frame);
      frame.free();
    }
    if (!this.graph) return;
    if (this.ended) this.graph.into.buffersrcAddFrameSync(null);
    while (this.graph.out.buffersinkGetFrameSync(this.frame) >= 0) {
      const { data, nbSamples } = this.frame;
      const [plane] = data ?? [];
      if (plane) {
        const begins = plane.byteOffset;
        this.made.push(new Float32Array(plane.buffer.slice(begins, begins + nbSamples * channels * 4)));
        this.samples += nbSamples;
      }
      this.frame.unref();
    }
  }

  /** What a decoder gives is told by its frames: containers do not always know. */
  private openGraph(frame: Frame) {
    const { timeBase, name } = this.of;
    const filters = new FilterGraph();
    filters.alloc();
    const format = avGetSampleFmtName(frame.format as AVSampleFormat) ?? 'flt';
    const code = filters.parsePtr(
      `abuffer@in=time_base=${timeBase.num}/${timeBase.den}:sample_rate=${frame.sampleRate}:sample_fmt=${format}:channel_layout=${frame.channels}c,aresample=${soundRate}:async=1:first_pts=0,aformat=sample_fmts=flt:channel_layouts=stereo,abuffersink@out`,
    );
    const [into, out] = [filters.getFilter('abuffer@in'), filters.getFilter('abuffersink@out')];
    if (code < 0 || filters.configSync() < 0 || !into || !out)
      throw new EngineError('sound-not-resampled', { path: name, code });
    this.graph = { filters, into, out };
    return this.graph;
  }

  /** Takes so many samples of each channel; silence where they are not there. */
  take(samples: number): Float32Array {
    const taken = new Float32Array(samples * channels);
    const end = Math.min(samples, this.samples) * channels;
    let at = 0;
    while (at < end) {
      const [block] = this.made as [Float32Array];
      const part = block.subarray(0, end - at);
      taken.set(part, at);
      at += part.length;
      if (part.length === block.length) this.made.shift();
      else this.made[0] = block.subarray(part.length);
    }
    this.samples -= end / channels;
    return taken;
  }

  close(): void {
    for (const frame of this.decoded) frame.free();
    this.graph?.filters.free();
    this.of.context.freeContext();
    this.frame.free();
  }
}
