import { freemem } from 'node:os';
import type { Frame } from 'node-av/lib';
import { count, memory } from '@/core/format';
import type { Format } from '@/core/media/format';
import { decodePacketTable } from '@/core/media/packetTable';
import type { Raster } from '@/core/timeline/deviceRaster';
import { FieldGraph } from './fieldGraph';
import { firstField, scaledTo } from './fields';
import { scaledPicture } from './scaledPicture';
import { EngineError } from '../errors';
import { FrameAccess } from './frameAccess';
import type { CodecSetup } from '../media/streamFacts';
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
  /** Rasters that made-up devices may bring its pictures to; absent: none. */
  readonly rasters?: readonly Raster[];
}

/** A clip's pictures whole, or as they lie in memory at a raster. */
const keyOf = (id: string, raster: Raster | null) => (raster ? `${id} ${raster.width}x${raster.height}` : id);

/** Bytes of one picture of a clip, whole and in the rasters that it is kept in. */
function keptBytes({ format, rasters = [] }: Pick<WantedFrames, 'format' | 'rasters'>): number {
  return [format, ...rasters].reduce(
    (sum, { width, height }) => sum + frameBytes({ ...format, width, height }),
    0,
  );
}

/** An interlaced picture scaled, its fields apart. */
async function fieldsScaled(picture: Frame, raster: Raster): Promise<Frame> {
  const graph = await FieldGraph.open(picture, [scaledTo(raster, true, 'area')]);
  const smaller = await graph.picture(picture);
  graph.close();
  return smaller;
}

/** A picture as a device would scale it: smaller, and else the same. */
async function smallerOf(picture: Frame, width: number, height: number): Promise<Frame> {
  const smaller = await (firstField(picture) === null
    ? scaledPicture(picture, width, height)
    : fieldsScaled(picture, { width, height }));
  smaller.copyProps(picture);
  return smaller;
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
    for (const [id, { path, setup, rate, packets, frames, format, rasters = [] }] of clips) {
      const reader = await FrameAccess.open({ path, setup, rate, packets: decodePacketTable(packets) });
      const pictures = this.picturesOf(id, null);
      const smaller = rasters.map((raster) => ({ ...raster, pictures: this.picturesOf(id, raster) }));
      try {
        for (const frame of [...frames].sort((a, b) => a - b)) {
          const picture = await reader.frame(frame);
          pictures.set(frame, picture);
          for (const { width, height, pictures: scaled } of smaller)
            scaled.set(frame, picture && (await smallerOf(picture, width, height)));
          tell(++done, all);
        }
      } finally {
        await reader.close();
      }
      this.bytes += frames.size * keptBytes({ format, rasters });
    }
  }

  private picturesOf(id: string, raster: Raster | null): Map<number, Frame | null> {
    const pictures = new Map<number, Frame | null>();
    this.clips.set(keyOf(id, raster), pictures);
    return pictures;
  }

  /** @param raster that they were brought to; null: whole */
  of(id: string, raster: Raster | null = null): FramesBeforehand {
    const pictures = this.clips.get(keyOf(id, raster));
    return { pictureOf: (frame) => pictures?.get(frame) };
  }

  free(): void {
    for (const pictures of this.clips.values()) for (const picture of pictures.values()) picture?.free();
    this.clips.clear();
  }
}

/** @throws EngineError that says how much of the run would fit */
export function assertFits(clips: readonly WantedFrames[], room = freemem() * mostOfMemory): void {
  const needed = clips.reduce((sum, clip) => sum + clip.frames.size * keptBytes(clip), 0);
  if (needed <= room) return;
  const frames = clips.reduce((sum, clip) => sum + clip.frames.size, 0);
  throw new EngineError('stand-in-holds-less', {
    needed: memory(needed),
    room: memory(room),
    frames: count(frames),
    fitting: count(Math.floor((frames * room) / needed)),
  });
}
