import type { AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtName } from 'node-av/lib';
import { pixelFormatFacts } from '@/core/media/format';

/** Whether a pixel format has more than 8 bits a channel. */
export const isDeep = (format: number): boolean =>
  pixelFormatFacts(avGetPixFmtName(format as AVPixelFormat) ?? '').bitDepth > 8;
