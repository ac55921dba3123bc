import type { AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtName, type Frame } from 'node-av/lib';
import { pixelFormatFacts } from '@/core/media/format';

/** Reads the first plane of a planar format as luma 0 to 255; null for formats that mix their components. */
export function lumaReader(frame: Frame): ((x: number, y: number) => number) | null {
  const name = avGetPixFmtName(frame.format as AVPixelFormat) ?? '';
  if (!/^(yuv|gray|gbr|nv12)/.test(name) || /be$|f(16|32)le$/.test(name)) return null;
  const [plane] = frame.data ?? [];
  const stride = frame.linesize[0] ?? 0;
  if (!plane) return null;
  const { bitDepth } = pixelFormatFacts(name);
  if (bitDepth === 8) return (x, y) => plane[y * stride + x] ?? 0;
  return (x, y) => plane.readUInt16LE(y * stride + 2 * x) >> (bitDepth - 8);
}
