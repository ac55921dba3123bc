import type { AVPixelFormat, FFEncoderCodec } from 'node-av/constants';
import { Codec, CodecContext, Dictionary, type Frame, type Rational } from 'node-av/lib';
import { EngineError } from '../errors';
import type { DeviceFrames } from './deviceFrames';

/** How colours are told: what frames, streams and encoders all carry. */
export type Colour = Pick<Frame, 'colorPrimaries' | 'colorTrc' | 'colorSpace' | 'colorRange'> &
  Partial<Pick<Frame, 'chromaLocation'>>;

export interface VideoEncoderChoice {
  /** As the codec library names it. */
  readonly encoder: string;
  readonly options: Readonly<Record<string, string>>;
  readonly width: number;
  readonly height: number;
  readonly pixelFormat: AVPixelFormat;
  readonly timeBase: Rational;
  readonly rate: Rational;
  readonly sampleAspect: Rational;
  readonly colour: Colour;
  /** 0: one per core. */
  readonly threads: number;
  /** Frames from key to key; 1: each stands alone. */
  readonly keyDistance: number;
  readonly flags: readonly Parameters<CodecContext['setFlags']>[0][];
}

/** An open encoder. @param device what the device has for it that it is of; null: it is none's @throws EngineError when there is none, or it refuses its settings */
export async function openVideoEncoder(
  choice: VideoEncoderChoice,
  device: DeviceFrames | null = null,
): Promise<CodecContext> {
  const codec = Codec.findEncoderByName(choice.encoder as FFEncoderCodec);
  if (!codec) throw new EngineError('no-encoder', { encoder: choice.encoder });
  const context = new CodecContext();
  context.allocContext3(codec);
  context.width = choice.width;
  context.height = choice.height;
  context.pixelFormat = choice.pixelFormat;
  context.timeBase = choice.timeBase;
  context.framerate = choice.rate;
  context.sampleAspectRatio = choice.sampleAspect;
  const { colorPrimaries, colorTrc, colorSpace, colorRange, chromaLocation } = choice.colour;
  Object.assign(context, { colorPrimaries, colorTrc, colorSpace, colorRange });
  if (chromaLocation !== undefined) context.chromaLocation = chromaLocation;
  context.threadCount = choice.threads;
  context.gopSize = choice.keyDistance;
  if (choice.keyDistance === 1) context.maxBFrames = 0;
  context.setFlags(...choice.flags);
  device?.attach(context);
  const code = await context.open2(codec, Dictionary.fromObject({ ...choice.options }));
  if (code < 0) {
    context.freeContext();
    throw new EngineError('encoder-not-opened', { encoder: choice.encoder, code });
  }
  return context;
}
