import { Dictionary, FormatContext } from 'node-av/lib';
import type { FileHandle } from 'node:fs/promises';
import { fileError } from '../errors';
import { descriptorPath, openInPlace } from '../inPlace';

/**
 * Containers that hold their media themselves. Others are lists that name further files, on this machine or on the network,
 * which a file that calls itself media must not have opened.
 */
const containers = [
  'mov,mp4,m4a,3gp,3g2,mj2',
  'matroska,webm',
  'avi',
  'mxf',
  'mpegts',
  'mpeg',
  'mpegvideo',
  'm4v',
  'h264',
  'hevc',
  'vvc',
  'obu',
  'apv',
  'ivf',
  'dv',
  'nut',
  'yuv4mpegpipe',
  'mjpeg',
  'flv',
  'ogg',
  'asf',
  'gxf',
  'vc1',
  'dpx_pipe',
  'exr_pipe',
  'tiff_pipe',
  'png_pipe',
  'jpeg_pipe',
  'j2k_pipe',
].join(',');

/** Options under which the codec library opens no file but the one that it is given. A dictionary is used up by opening. */
export const alone = (): Dictionary =>
  Dictionary.fromObject({ format_whitelist: containers, protocol_whitelist: 'file' });

/** A media file that the codec library reads, open where it is. */
export class MediaFile {
  private constructor(
    readonly input: FormatContext,
    private readonly handle: FileHandle,
  ) {}

  /**
   * @returns null where it is no media, or of a container that is not known
   * @throws EngineError where it cannot be opened, or a link is on the way
   */
  static async open(path: string): Promise<MediaFile | null> {
    const handle = await openInPlace(path).catch((error: unknown) => {
      throw fileError(error, path);
    });
    const input = new FormatContext();
    // By its descriptor: the path may lead elsewhere by now.
    if ((await input.openInput(descriptorPath(handle.fd), null, alone())) >= 0)
      return new MediaFile(input, handle);
    await handle.close();
    return null;
  }

  async close(): Promise<void> {
    await this.input.closeInput();
    await this.handle.close();
  }
}
