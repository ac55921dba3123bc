import { AVCOL_PRI_BT709, AVCOL_RANGE_MPEG, AVCOL_SPC_BT709, AVCOL_TRC_BT709 } from 'node-av/constants';
import {
  avGetPixFmtFromName,
  Codec,
  Rational,
  type CodecParameters,
  type HardwareDeviceContext,
  type Packet,
} from 'node-av/lib';
import type { DeviceEncoding } from '@/core/decode/device';
import { encodersOfKind, type DeviceEncoder } from '@/core/tasks/encodeDevices';
import { decodeProof, proofFrames, proofHeight, proofWidth, rampFrame } from './deviceProof';
import { DeviceFrames } from './deviceFrames';
import { CodecEncoder } from './pictureEncoder';

const colour = {
  colorPrimaries: AVCOL_PRI_BT709,
  colorTrc: AVCOL_TRC_BT709,
  colorSpace: AVCOL_SPC_BT709,
  colorRange: AVCOL_RANGE_MPEG,
};

/** What a kind of device encodes: of each a few frames were encoded, and decoded again in software. @param kind as the codec library names it */
export async function encodingsOf(device: HardwareDeviceContext, kind: string): Promise<DeviceEncoding[]> {
  const proved: DeviceEncoding[] = [];
  for (const encoder of encodersOfKind(kind)) {
    const { codec, picture, onDevice } = encoder;
    const isProved = await provesEncoder(encoder, (raster) =>
      DeviceFrames.on(device, { kind, onDevice }, raster),
    );
    if (isProved) proved.push({ codec, picture });
  }
  return proved;
}

/** Whether an encoder makes packets that a decoder in software makes pictures of. @param framesFor what the device has for it; null: it is none's */
export async function provesEncoder(
  { encoder: name, pixelFormat: formatName }: Pick<DeviceEncoder, 'encoder' | 'pixelFormat'>,
  framesFor: ((raster: Parameters<typeof DeviceFrames.on>[2]) => DeviceFrames) | null,
): Promise<boolean> {
  if (!Codec.findEncoderByName(name as Parameters<typeof Codec.findEncoderByName>[0])) return false;
  const raster = {
    width: proofWidth,
    height: proofHeight,
    pixelFormat: avGetPixFmtFromName(formatName),
  };
  const packets: Packet[] = [];
  let encoder: CodecEncoder | null = null;
  let parameters: CodecParameters | null = null;
  try {
    encoder = await CodecEncoder.open(
      {
        ...raster,
        encoder: name,
        options: {},
        timeBase: new Rational(1, 25),
        rate: new Rational(25, 1),
        sampleAspect: new Rational(1, 1),
        colour,
        threads: 1,
        keyDistance: proofFrames,
        flags: [],
      },
      framesFor?.(raster) ?? null,
    );
    for (let index = 0; index < proofFrames; index++) {
      const frame = rampFrame(index, raster.pixelFormat);
      await encoder.send(frame).finally(() => frame.free());
      packets.push(...(await encoder.received(Infinity)));
    }
    await encoder.finish();
    packets.push(...(await encoder.received(Infinity)));
    parameters = encoder.parameters;
    let pictures = 0;
    decodeProof({ parameters, packets }, null, ({ width, height }) => {
      if (width === proofWidth && height === proofHeight) pictures++;
    });
    return pictures === proofFrames;
  } catch {
    // What refuses to open or to encode is no encoder here.
    return false;
  } finally {
    for (const packet of packets) packet.free();
    parameters?.free();
    encoder?.free();
  }
}
