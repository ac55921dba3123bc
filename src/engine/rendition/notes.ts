import type { AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtName, type Frame } from 'node-av/lib';
import { pixelFormatFacts } from '@/core/media/format';
import { readFrameCode } from '@/core/media/frameCode';
import { signatureRaster } from '@/core/rendition/frameCheck';
import { greyAt } from '../media/preview';

/** Samples on each side of a cell: enough to average grain away. */
const samples = 6;

/** Notes what a frame shows: its number where the picture carries one (else -1), and a coarse picture. */
export async function noteFrame(frame: Frame): Promise<{ code: number; signature: Uint8Array }> {
  const luma = lumaReader(frame);
  if (!luma) return { code: -1, signature: await greyAt(frame, signatureRaster.width, signatureRaster.height) };
  const { width, height } = frame;
  const signature = new Uint8Array(signatureRaster.width * signatureRaster.height);
  for (let row = 0; row < signatureRaster.height; row++) {
    for (let column = 0; column < signatureRaster.width; column++) {
      let sum = 0;
      for (let y = 0; y < samples; y++) {
        for (let x = 0; x < samples; x++) {
          sum += luma(Math.floor(((column + (x + 0.5) / samples) / signatureRaster.width) * width), Math.floor(((row + (y + 0.5) / samples) / signatureRaster.height) * height));
        }
      }
      signature[row * signatureRaster.width + column] = Math.round(sum / (samples * samples));
    }
  }
  return { code: readFrameCode(width, height, luma) ?? -1, signature };
}

/** Reads the first plane of a planar format as luma 0 to 255; null for formats that mix their components. */
function lumaReader(frame: Frame): ((x: number, y: number) => number) | null {
  const name = avGetPixFmtName(frame.format as AVPixelFormat) ?? '';
  if (!/^(yuv|gray|gbr|nv12)/.test(name) || name.endsWith('be')) return null;
  const [plane] = frame.data ?? [];
  const stride = frame.linesize[0] ?? 0;
  if (!plane) return null;
  const { bitDepth } = pixelFormatFacts(name);
  if (bitDepth === 8) return (x, y) => plane[y * stride + x] ?? 0;
  return (x, y) => plane.readUInt16LE(y * stride + 2 * x) >> (bitDepth - 8);
}
