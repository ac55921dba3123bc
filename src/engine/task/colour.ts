import {
  AVCOL_PRI_BT709,
  AVCOL_PRI_SMPTE170M,
  AVCOL_RANGE_JPEG,
  AVCOL_RANGE_MPEG,
  AVCOL_SPC_BT709,
  AVCOL_SPC_RGB,
  AVCOL_SPC_SMPTE170M,
  AVCOL_TRC_BT709,
  AVCOL_TRC_SMPTE170M,
} from 'node-av/constants';
import type { Colour } from '../codec/videoEncoder';
import type { Raster } from '../timeline/pictureGraph';

/** How a graph ends: colours as ITU-R BT.709 has them for high definition, BT.601 below; RGB as it is. */
export function outputFilter(pixelFormat: string, { height }: Raster): string {
  if (isRgb(pixelFormat)) return `format=${pixelFormat}`;
  const range = pixelFormat.startsWith('yuvj') ? 'pc' : 'tv';
  return `scale=out_color_matrix=${isHighDefinition(height) ? 'bt709' : 'smpte170m'}:out_range=${range},format=${pixelFormat}`;
}

/** From this height on pictures are taken to have colours as ITU-R BT.709 has them. */
function isHighDefinition(height: number): boolean {
  return height >= 720;
}

/** Devices name formats of luma and chroma by their layout, as `nv12`. */
const isRgb = (pixelFormat: string) => /^(rgb|gbr)/.test(pixelFormat);

/** How the colours of what is made are told. */
export function colourOf(pixelFormat: string, height: number): Colour {
  const high = isHighDefinition(height);
  const isYuv = !isRgb(pixelFormat);
  return {
    colorPrimaries: high ? AVCOL_PRI_BT709 : AVCOL_PRI_SMPTE170M,
    colorTrc: high ? AVCOL_TRC_BT709 : AVCOL_TRC_SMPTE170M,
    colorSpace: isYuv ? (high ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M) : AVCOL_SPC_RGB,
    colorRange: isYuv && !pixelFormat.startsWith('yuvj') ? AVCOL_RANGE_MPEG : AVCOL_RANGE_JPEG,
  };
}
