import type { AVPixelFormat } from 'node-av/constants';
import { Frame } from 'node-av/lib';
import { EngineError } from '../errors';

/** An empty picture. @throws EngineError when there is no memory for it */
export function emptyPicture(width: number, height: number, pixelFormat: AVPixelFormat): Frame {
  const frame = new Frame();
  frame.alloc();
  frame.width = width;
  frame.height = height;
  frame.format = pixelFormat;
  if (frame.getBuffer() < 0) throw new EngineError('no-memory-for-size', { width, height });
  return frame;
}

/** Pictures of one size and format that are used again once an encoder has done with them. */
export class FramePool {
  private readonly all = new Set<Frame>();
  private readonly back: Frame[] = [];

  constructor(
    private readonly width: number,
    private readonly height: number,
    private readonly pixelFormat: AVPixelFormat,
  ) {}

  /** One that nobody refers to any more, or a new one. */
  take(): Frame {
    const at = this.back.findIndex((frame) => frame.isWritable);
    const [used] = at === -1 ? [] : this.back.splice(at, 1);
    if (used) return used;
    const frame = emptyPicture(this.width, this.height, this.pixelFormat);
    this.all.add(frame);
    return frame;
  }

  /** Whoever had a picture has done with it: one of the pool is kept for later, any other is freed. */
  giveBack(frame: Frame): void {
    if (this.all.has(frame)) this.back.push(frame);
    else frame.free();
  }

  close(): void {
    for (const frame of this.all) frame.free();
    this.all.clear();
    this.back.length = 0;
  }
}
