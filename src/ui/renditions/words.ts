import type { RasterFraction } from '@/core/rendition/presets';
import type { RenditionItemStatus, RenditionStage } from '@/core/rendition/work';

export const rasterWords: Record<RasterFraction, string> = {
  full: 'full raster',
  half: 'half raster',
  quarter: 'quarter raster',
};
export const itemWords: Record<RenditionItemStatus, string> = {
  waiting: 'waiting',
  running: 'under way',
  made: 'made',
  present: 'there already',
  failed: 'failed',
};
export const stageWords: Record<RenditionStage, string> = {
  decode: 'decoding',
  scale: 'scaling',
  encode: 'encoding',
  write: 'writing',
};
