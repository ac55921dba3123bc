import { AV_FRAME_FLAG_INTERLACED, AV_FRAME_FLAG_TOP_FIELD_FIRST } from 'node-av/constants';
import type { Frame } from 'node-av/lib';
import type { Raster } from '@/core/timeline/deviceRaster';

export type FirstField = 'top' | 'bottom';

/** Which field of a decoded frame comes first; null where it is one picture. */
export function firstField(frame: Frame): FirstField | null {
  if (!frame.hasFlags(AV_FRAME_FLAG_INTERLACED)) return null;
  return frame.hasFlags(AV_FRAME_FLAG_TOP_FIELD_FIRST) ? 'top' : 'bottom';
}

/**
 * Makes a picture of one field of an interlaced one: its lines stay where they are, those between are the mean of the
 * lines above and below. Both halves are worked out one under the other and then laid between each other. (By matrices
 * of three by three: the library's filter by columns reads other lines where there are more than 8 bits.)
 * @param name for the filters' links; no two of a graph are alike
 */
export function oneField(first: FirstField, field: 0 | 1, name: string): string {
  const isTop = (first === 'top') === (field === 0);
  const between = [0, 1, 2, 3]
    .map((plane) => `${plane}m=${isTop ? '0 0 0 0 1 0 0 1 0' : '0 1 0 0 1 0 0 0 0'}:${plane}rdiv=0.5`)
    .join(':');
  const [upper, lower] = isTop ? [`own${name}`, `between${name}`] : [`between${name}`, `own${name}`];
  return [
    `field=type=${isTop ? 'top' : 'bottom'},split[own${name}][line${name}]`,
    `[line${name}]convolution=${between}[between${name}]`,
    `[${upper}][${lower}]vstack,il=l=i:c=i:a=i`,
  ].join(';');
}

/** Scales a picture; both fields of an interlaced one apart. */
export const scaledTo = ({ width, height }: Raster, isWoven: boolean, kernel = 'bilinear'): string =>
  `scale=${width}:${height}:flags=${kernel}${isWoven ? ':interl=1' : ''}`;
