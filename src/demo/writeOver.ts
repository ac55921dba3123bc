import { open } from 'node:fs/promises';
import { probeClip } from '@/engine/media/probe';

/**
 * Damages frames of one of our clips as a failing card does: writes over bytes of their coded data in place.
 * @param part the beginning, without which a frame cannot be decoded; a stretch in the middle; or the bytes given, from a place on
 * @throws EngineError when the clip cannot be read
 */
export async function writeOver(
  path: string,
  frames: readonly number[],
  part: 'beginning' | 'middle' | { readonly at: number; readonly bytes: Uint8Array } = 'beginning',
): Promise<void> {
  const { packets } = await probeClip(path);
  const file = await open(path, 'r+');
  try {
    for (const frame of frames) {
      const row = packets.slot.indexOf(frame);
      const [start, size] = [packets.offset[row] ?? 0, packets.size[row] ?? 0];
      if (typeof part === 'object') await file.write(part.bytes, 0, part.bytes.length, start + part.at);
      else if (part === 'beginning')
        await file.write(Buffer.alloc(Math.min(size, 64), 0xa5), 0, Math.min(size, 64), start);
      else await file.write(Buffer.alloc(size >> 2, 0xa5), 0, size >> 2, start + (size >> 1));
    }
  } finally {
    await file.close();
  }
}
