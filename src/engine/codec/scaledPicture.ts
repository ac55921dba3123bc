import { SWS_AREA, type AVPixelFormat } from 'node-av/constants';
import { Frame, SoftwareScaleContext } from 'node-av/lib';

/** A frame scaled into another of the given raster and format. The caller frees it. */
export async function scaledPicture(
  source: Frame,
  width: number,
  height: number,
  format = source.format as AVPixelFormat,
): Promise<Frame> {
  const target = new Frame();
  target.alloc();
  target.width = width;
  target.height = height;
  target.format = format;
  target.getBuffer();
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
  await context.scaleFrame(target, source);
  context.freeContext();
  return target;
}
