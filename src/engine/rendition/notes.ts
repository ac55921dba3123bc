import type { Frame } from 'node-av/lib';
import { readFrameCode } from '@/core/media/frameCode';
import { signatureRaster } from '@/core/rendition/frameCheck';
import { lumaReader } from '../media/luma';
import { greyAt } from '../media/preview';

/** Samples on each side of a cell: enough to average grain away. */
const samples = 6;

/** Notes what a frame shows: its number where the picture carries one (else -1), and a coarse picture. */
export async function noteFrame(frame: Frame): Promise<{ code: number; signature: Uint8Array }> {
  const luma = lumaReader(frame);
  if (!luma)
    return { code: -1, signature: await greyAt(frame, signatureRaster.width, signatureRaster.height) };
  const { width, height } = frame;
  const signature = new Uint8Array(signatureRaster.width * signatureRaster.height);
  for (let row = 0; row < signatureRaster.height; row++) {
    for (let column = 0; column < signatureRaster.width; column++) {
      let sum = 0;
      for (let y = 0; y < samples; y++) {
        for (let x = 0; x < samples; x++) {
          sum += luma(
            Math.floor(((column + (x + 0.5) / samples) / signatureRaster.width) * width),
            Math.floor(((row + (y + 0.5) / samples) / signatureRaster.height) * height),
          );
        }
      }
      signature[row * signatureRaster.width + column] = Math.round(sum / (samples * samples));
    }
  }
  return { code: readFrameCode(width, height, luma) ?? -1, signature };
}
