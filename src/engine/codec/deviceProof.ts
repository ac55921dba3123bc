import {
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_PIX_FMT_YUV420P,
  AVERROR_EAGAIN,
  type AVPixelFormat,
  type FFEncoderCodec,
} from 'node-av/constants';
import {
  Codec,
  CodecContext,
  CodecParameters,
  Dictionary,
  Frame,
  Packet,
  Rational,
  type HardwareDeviceContext,
} from 'node-av/lib';

/** A few coded frames of one format, as a decoder takes them. */
export interface ProofClip {
  readonly format: string;
  readonly parameters: CodecParameters;
  readonly packets: readonly Packet[];
}

/** What decode devices know: one encoder each. Large enough for the smallest raster that devices take. */
const encoders: readonly (readonly [format: string, encoder: string, options: Record<string, string>])[] = [
  ['H.264', 'libx264', { preset: 'ultrafast' }],
  ['HEVC', 'libx265', { preset: 'ultrafast', 'x265-params': 'log-level=none' }],
  ['VP9', 'libvpx-vp9', { deadline: 'realtime', 'cpu-used': '8' }],
  ['AV1', 'libsvtav1', { preset: '12' }],
  ['MPEG-2', 'mpeg2video', {}],
  ['Motion JPEG', 'mjpeg', {}],
];
export const proofWidth = 640;
export const proofHeight = 368;
export const proofFrames = 8;

/** Encodes a grey ramp that moves, in every format of the list that the codec library can encode. The caller frees them. */
export async function proofClips(): Promise<ProofClip[]> {
  process.env.SVT_LOG ??= '1'; // errors only: the AV1 encoder writes its settings to the terminal otherwise
  const clips: ProofClip[] = [];
  for (const [format, encoder, options] of encoders) {
    const clip = await encode(format, encoder, options);
    if (clip) clips.push(clip);
  }
  return clips;
}

export function freeProofClips(clips: readonly ProofClip[]): void {
  for (const { packets, parameters } of clips) {
    for (const packet of packets) packet.free();
    parameters.free();
  }
}

/** The formats of which a device gave a frame that lay on a surface of its own. What the codec library quietly decodes in software does not count. @param device null for none: then nothing counts */
export function formatsDecodedBy(
  device: HardwareDeviceContext | null,
  clips: readonly ProofClip[],
): string[] {
  return clips.filter((clip) => givesDeviceFrame(device, clip)).map(({ format }) => format);
}

async function encode(
  format: string,
  encoder: string,
  options: Record<string, string>,
): Promise<ProofClip | null> {
  const codec = Codec.findEncoderByName(encoder as FFEncoderCodec);
  if (!codec) return null;
  const context = new CodecContext();
  context.allocContext3(codec);
  Object.assign(context, {
    width: proofWidth,
    height: proofHeight,
    pixelFormat: AV_PIX_FMT_YUV420P,
    timeBase: new Rational(1, 25),
    framerate: new Rational(25, 1),
    gopSize: proofFrames,
    maxBFrames: 0,
    threadCount: 1,
  });
  context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
  try {
    // Not open2Sync: it frees the options, and so does their owner.
    if ((await context.open2(codec, Dictionary.fromObject({ ...options, strict: 'unofficial' }))) < 0)
      return null;
    const packets: Packet[] = [];
    for (let index = 0; index <= proofFrames; index++) {
      const frame = index < proofFrames ? rampFrame(index) : null;
      context.sendFrameSync(frame);
      frame?.free();
      takePackets(context, packets);
    }
    const parameters = new CodecParameters();
    parameters.alloc();
    parameters.fromContext(context);
    return { format, parameters, packets };
  } finally {
    context.freeContext();
  }
}

function takePackets(context: CodecContext, packets: Packet[]): void {
  for (;;) {
    const packet = new Packet();
    packet.alloc();
    if (context.receivePacketSync(packet) < 0) {
      packet.free();
      return;
    }
    packets.push(packet);
  }
}

/** A grey ramp that moves with its number. @param pixelFormat with luma in its first plane */
export function rampFrame(index: number, pixelFormat: AVPixelFormat = AV_PIX_FMT_YUV420P): Frame {
  const frame = new Frame();
  frame.alloc();
  Object.assign(frame, {
    width: proofWidth,
    height: proofHeight,
    format: pixelFormat,
    timeBase: new Rational(1, 25),
    pts: BigInt(index),
  });
  frame.getBuffer();
  (frame.data ?? []).slice(0, 3).forEach((plane, place) => {
    if (place > 0) {
      plane.fill(128);
      return;
    }
    const stride = frame.linesize[0] ?? proofWidth;
    for (let at = 0; at < plane.length; at++) plane[at] = 16 + (((at % stride) + index * 8) % 220);
  });
  return frame;
}

function givesDeviceFrame(device: HardwareDeviceContext | null, clip: ProofClip): boolean {
  let isGiven = false;
  decodeProof(clip, device, (frame) => {
    isGiven ||= frame.isHwFrame();
  });
  return isGiven;
}

/** Decodes a few coded frames and shows each picture that comes of them, up to where a decoder refuses. @param device null: in software */
export function decodeProof(
  { parameters, packets }: Pick<ProofClip, 'parameters' | 'packets'>,
  device: HardwareDeviceContext | null,
  show: (frame: Frame) => void,
): void {
  const codec = Codec.findDecoder(parameters.codecId);
  if (!codec) return;
  const context = new CodecContext();
  const frame = new Frame();
  frame.alloc();
  context.allocContext3(codec);
  try {
    context.parametersToContext(parameters);
    context.threadCount = 1;
    if (device) context.hwDeviceCtx = device;
    if (context.open2Sync(codec) < 0) return;
    for (const packet of [...packets, null]) {
      const sent = context.sendPacketSync(packet);
      if (sent < 0 && sent !== AVERROR_EAGAIN) return;
      while (context.receiveFrameSync(frame) >= 0) show(frame);
    }
  } finally {
    frame.free();
    context.freeContext();
  }
}
