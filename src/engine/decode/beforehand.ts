import { freemem } from 'node:os';
import type { Frame } from 'node-av/lib';
import { count, memory } from '@/core/format';
import type { Format } from '@/core/media/format';
import { decodePacketTable } from '@/core/media/packetTable';
import { EngineError } from '../errors';
import { FrameReader } from '../media/frameReader';
import type { CodecSetup } from '../media/probe';
import type { FramesBeforehand } from './standInDecoder';
import { frameBytes } from './window';

/** Of the memory that is free, so much may be taken by pictures that wait for a stand-in. */
const mostOfMemory = 0.6;

/** Frames of a clip that a run may ask a stand-in for. */
export interface WantedFrames {
  readonly path: string;
  readonly setup: CodecSetup;
  readonly format: Format;
  readonly rate: { readonly num: number; readonly den: number };
  /** Packed packet table. */
  readonly packets: Uint8Array;
  /** Numbers of frames, in any order. */
  readonly frames: ReadonlySet<number>;
}

/** Told how many frames of how many are done. */
export type TellBeforehand = (done: number, all: number) => void;

/** Pictures decoded in software before a run, which a stand-in gives at its own times. They are freed with it. */
export class Beforehand {
  private readonly clips = new Map<string, Map<number, Frame | null>>();
  bytes = 0;

  /**
   * Decodes frames of clips, read as they are and past no model: nothing of this is measured. Files may lie in the
   * system's memory afterwards.
   * @throws EngineError when they do not fit into memory, or a file cannot be read
   */
  async decode(clips: ReadonlyMap<string, WantedFrames>, tell: TellBeforehand): Promise<void> {
    assertFits([...clips.values()]);
    const all = [...clips.values()].reduce((sum, { frames }) => sum + frames.size, 0);
    let done = 0;
    for (const [id, { path, setup, rate, packets, frames, format }] of clips) {
      const reader = await FrameReader.open({ path, setup, rate, packets: decodePacketTable(packets) });
      const pictures = new Map<number, Frame | null>();
      this.clips.set(id, pictures);
      try {
        for (const frame of [...frames].sort((a, b) => a - b)) {
          pictures.set(frame, await reader.frame(frame));
          tell(++done, all);
        }
      } finally {
        await reader.close();
      }
      this.bytes += frames.size * frameBytes(format);
    }
  }

  of(id: string): FramesBeforehand {
    const pictures = this.clips.get(id);
    return { pictureOf: (frame) => pictures?.get(frame) };
  }

  free(): void {
    for (const pictures of this.clips.values()) for (const picture of pictures.values()) picture?.free();
    this.clips.clear();
  }
}

/** @throws EngineError that says how much of the run would fit */
export function assertFits(clips: readonly WantedFrames[], room = freemem() * mostOfMemory): void {
  const needed = clips.reduce((sum, { frames, format }) => sum + frames.size * frameBytes(format), 0);
  if (needed <= room) return;
  const frames = clips.reduce((sum, clip) => sum + clip.frames.size, 0);
  throw new EngineError('stand-in-holds-less', {
    needed: memory(needed),
    room: memory(room),
    frames: count(frames),
    fitting: count(Math.floor((frames * room) / needed)),
  });
}
