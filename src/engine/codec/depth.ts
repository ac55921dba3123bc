import type { AVPixelFormat } from 'node-av/constants';
import { avGetPixFmtName } from 'node-av/lib';
import { pixelFormatFacts } from '@/core/media/format';

/** Whether a pixel format has more than 8 bits a channel. */
export const isDeep = (format: number): boolean =>
  pixelFormatFacts(avGetPixFmtName(format as AVPixelFormat) ?? '').bitDepth > 8;

/** The last filters of a graph. @param deep whether it is worked on in 16 bits a channel */
export type GraphOutput = (deep: boolean) => string;

/** As a display wants its picture. */
export const forDisplay: GraphOutput = (deep) => (deep ? 'format=rgba64le' : 'format=rgba');
