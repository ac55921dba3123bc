import { fileName } from '../media/fileName';
import type { Format } from '../media/format';
import type { MediaRef } from './model';

/** What of a clip of the library a timeline keeps. */
export interface ReferredClip {
  readonly id: string;
  readonly path: string;
  readonly format: Format | null;
  readonly frames: number | null;
  readonly startTimecode: string | null;
  readonly contentHash: string | null;
}

/** A clip as a timeline names it; null where it has no pictures that were read. */
export function mediaRefOf(clip: ReferredClip): MediaRef | null {
  if (!clip.format || clip.frames === null) return null;
  const { width, height, rate } = clip.format;
  return {
    clipId: clip.id,
    name: fileName(clip.path),
    reel: reelOf(clip.path),
    startTimecode: clip.startTimecode,
    contentHash: clip.contentHash,
    rate,
    frames: clip.frames,
    width,
    height,
  };
}

/** A card's name as edit lists have it: eight letters and digits, the last part of the file's name whole and the part before it as far as there is room. */
export function reelOf(path: string): string {
  const parts = fileName(path)
    .replace(/\.[^.]+$/, '')
    .toUpperCase()
    .split(/[^A-Z0-9]+/)
    .filter(Boolean);
  const last = (parts.at(-1) ?? 'AX').slice(0, 8);
  return `${(parts.at(-2) ?? '').slice(0, 8 - last.length)}${last}`;
}
