import { AV_PIX_FMT_YUVJ420P, FF_ENCODER_MJPEG } from 'node-av/constants';
import { Codec, CodecContext, Frame, Packet, Rational } from 'node-av/lib';
import { EngineError } from '../errors';

/** An empty picture for `encodeJpeg`. The caller frees it. */
export function jpegFrame(width: number, height: number): Frame {
  const frame = new Frame();
  frame.alloc();
  frame.width = width;
  frame.height = height;
  frame.format = AV_PIX_FMT_YUVJ420P;
  frame.pts = 0n;
  frame.getBuffer();
  return frame;
}

/** An encoder of JPEG pictures. @param quantiser 1 (best) to 31 @throws EngineError when it does not open */
export async function openJpegEncoder(
  width: number,
  height: number,
  quantiser: number,
): Promise<CodecContext> {
  const codec = Codec.findEncoderByName(FF_ENCODER_MJPEG);
  const encoder = new CodecContext();
  encoder.allocContext3(codec);
  encoder.width = width;
  encoder.height = height;
  encoder.pixelFormat = AV_PIX_FMT_YUVJ420P;
  encoder.timeBase = new Rational(1, 25);
  encoder.threadCount = 1;
  encoder.qMin = encoder.qMax = quantiser;
  if ((await encoder.open2(codec)) < 0) throw new EngineError('no-jpeg-encoder');
  return encoder;
}

/** Encodes one picture as JPEG. @throws EngineError when the encoder refuses it */
export async function encodeJpeg(frame: Frame): Promise<Uint8Array> {
  const encoder = await openJpegEncoder(frame.width, frame.height, 5);
  const packet = new Packet();
  packet.alloc();
  try {
    if ((await encoder.sendFrame(frame)) < 0 || (await encoder.receivePacket(packet)) < 0 || !packet.data)
      throw new EngineError('thumbnails-not-written');
    return new Uint8Array(packet.data);
  } finally {
    packet.free();
    encoder.freeContext();
  }
}
