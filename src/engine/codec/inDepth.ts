import type { AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtFromName, avGetPixFmtName, type Frame } from 'node-av/lib';
import { pixelFormatFacts } from '@/core/media/format';
import { scaledPicture } from './scaledPicture';

/** Pixel formats by chroma subsampling, in 8 bits a channel; with `10le` behind them in 10. */
const formats: Readonly<Record<string, string>> = {
  '4:2:0': 'yuv420p',
  '4:2:2': 'yuv422p',
  '4:4:4': 'yuv444p',
};

/**
 * A picture as a source of 8 or of 10 bits a channel with the same chroma has it.
 * @returns the caller's to free
 * @throws EngineError when it cannot be converted
 */
export async function inDepth(frame: Frame, bits: 8 | 10): Promise<Frame> {
  const { chroma } = pixelFormatFacts(avGetPixFmtName(frame.format as AVPixelFormat) ?? '');
  const format = avGetPixFmtFromName(`${formats[chroma] ?? 'gbrp'}${bits === 10 ? '10le' : ''}`);
  const picture = await scaledPicture(frame, frame.width, frame.height, format);
  picture.copyProps(frame);
  return picture;
}
