import { SWS_AREA, type AVPixelFormat } from 'node-av/constants';
import { SoftwareScaleContext, type Frame } from 'node-av/lib';
import { EngineError } from '../errors';
import { emptyPicture } from './framePool';

/** A frame scaled into another of the given raster and format. The caller frees it. @throws EngineError when it cannot be converted */
export async function scaledPicture(
  source: Frame,
  width: number,
  height: number,
  format = source.format as AVPixelFormat,
): Promise<Frame> {
  const target = emptyPicture(width, height, format);
  const context = new SoftwareScaleContext();
  context.getContext(
    source.width,
    source.height,
    source.format as AVPixelFormat,
    width,
    height,
    format,
    SWS_AREA,
  );
  const code = await context.scaleFrame(target, source);
  context.freeContext();
  if (code >= 0) return target;
  target.free();
  throw new EngineError('not-converted', { code });
}
