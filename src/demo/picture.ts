import { encodeFrameCode, frameCodeLayout } from '@/core/media/frameCode';
import { seededRandom } from '@/core/stats/random';
import { glyphDot } from './glyphs';

/** A planar picture layout: 8-bit samples in bytes, deeper ones in 16-bit words. */
export interface PictureFormat {
  readonly width: number;
  readonly height: number;
  readonly bitDepth: 8 | 10;
  /** Right shift of chroma coordinates. */
  readonly chromaShiftX: 0 | 1;
  readonly chromaShiftY: 0 | 1;
}

type Samples = Uint8Array | Uint16Array;

interface Plane {
  readonly samples: Samples;
  readonly width: number;
  readonly height: number;
}

/** How far a band of the scenery moves, in pixels per frame, and how its rows sway. */
interface Band {
  readonly from: number;
  readonly to: number;
  readonly speed: number;
  readonly sway: number;
}

const bands: readonly Band[] = [
  { from: 0, to: 0.38, speed: 1, sway: 0 }, // sky and clouds
  { from: 0.38, to: 0.52, speed: 2, sway: 0 }, // salt marsh
  { from: 0.52, to: 0.78, speed: 3, sway: 6 }, // tide
  { from: 0.78, to: 1, speed: 6, sway: 0 }, // harbour wall
];

const stillBand: Band = { from: 0, to: 1, speed: 0, sway: 0 };

const turn = 2 * Math.PI;
const stonesPerWidth = 40;
const coursesPerHeight = 36;

/**
 * Luma (0 to 255) of the scenery at a place, both coordinates from 0 to 1.
 * Every pattern has a whole number of periods across the width, so that the
 * scene moves round without a seam.
 * @param grain from -0.5 to 0.5 times the texture's strength
 */
function sceneryLuma(x: number, y: number, grain: number): number {
  if (y < 0.38) return 150 + y * 90 + cloudAt(x, y) * 45 + grain * 0.35;
  if (y < 0.52) return 92 + Math.sin(x * turn * 67 + Math.sin(y * 90) * 3) * 22 + grain;
  if (y < 0.78) return 84 + Math.sin(y * 240 + Math.sin(x * turn * 5) * 2.4) * 48 * (y - 0.4) + grain;
  const height = (y - 0.78) * coursesPerHeight;
  const course = Math.floor(height);
  const along = x * stonesPerWidth + (course % 2) * 0.5;
  if (along % 1 < 0.05 || height % 1 < 0.12) return 38;
  return 96 + (((Math.floor(along) % stonesPerWidth) * 37 + course * 59) % 46) + grain * 1.4;
}

/** Both chroma values (0 to 255) of the scenery at a place. */
function sceneryChroma(x: number, y: number): readonly [number, number] {
  if (y < 0.38) return [140 - cloudAt(x, y) * 10, 120 + y * 14];
  if (y < 0.52) return [112, 126 + Math.sin(x * turn * 2) * 6];
  return y < 0.78 ? [142, 116] : [124, 132];
}

function cloudAt(x: number, y: number): number {
  return Math.max(0, Math.sin(x * turn * 3 + Math.sin(y * 40) * 2) * Math.sin(y * 17 + x * turn));
}

/** Samples of changing grain; a prime, so that rows do not line up. */
const sprayTileSize = 131071;

/** Draws numbered frames of one moving scene. Memory: the scenery once, and one frame. */
export class SceneryPainter {
  private readonly scene: readonly [Plane, Plane, Plane];
  private readonly frame: readonly [Plane, Plane, Plane];
  readonly bytes: Buffer;
  private readonly full: number;
  private readonly sprayTile: Int16Array;

  /** @param texture and spray strength of the still and the changing grain, which set how much data an encoder needs */
  constructor(
    private readonly format: PictureFormat,
    private readonly label: string,
    seed: number,
    texture: number,
    private readonly spray: number,
  ) {
    this.full = format.bitDepth === 8 ? 1 : 4;
    const random = seededRandom(seed ^ 0x5eed);
    this.sprayTile = Int16Array.from(
      { length: sprayTileSize },
      () => (random() - 0.5) * 2 * spray * this.full,
    );
    this.scene = this.planes();
    this.frame = this.planes();
    this.bytes = Buffer.alloc(this.frame.reduce((sum, plane) => sum + plane.samples.byteLength, 0));
    let at = 0;
    this.frame = this.frame.map((plane) => {
      const view =
        format.bitDepth === 8
          ? new Uint8Array(this.bytes.buffer, this.bytes.byteOffset + at, plane.samples.length)
          : new Uint16Array(this.bytes.buffer, this.bytes.byteOffset + at, plane.samples.length);
      at += plane.samples.byteLength;
      return { ...plane, samples: view };
    }) as unknown as readonly [Plane, Plane, Plane];
    this.paintScene(seed, texture);
  }

  private planes(): [Plane, Plane, Plane] {
    const make = (shiftX: number, shiftY: number): Plane => {
      const width = this.format.width >> shiftX;
      const height = this.format.height >> shiftY;
      return {
        width,
        height,
        samples:
          this.format.bitDepth === 8 ? new Uint8Array(width * height) : new Uint16Array(width * height),
      };
    };
    const { chromaShiftX: x, chromaShiftY: y } = this.format;
    return [make(0, 0), make(x, y), make(x, y)];
  }

  private paintScene(seed: number, texture: number): void {
    const random = seededRandom(seed);
    const [luma, blue, red] = this.scene;
    const within = (value: number) => Math.min(235, Math.max(16, value)) * this.full;
    for (let row = 0, at = 0; row < luma.height; row++) {
      for (let column = 0; column < luma.width; column++, at++) {
        luma.samples[at] = within(
          sceneryLuma(column / luma.width, row / luma.height, (random() - 0.5) * texture),
        );
      }
    }
    for (let row = 0, at = 0; row < blue.height; row++) {
      for (let column = 0; column < blue.width; column++, at++) {
        const [blueness, redness] = sceneryChroma(column / blue.width, row / blue.height);
        blue.samples[at] = within(blueness);
        red.samples[at] = within(redness);
      }
    }
  }

  /** Paints frame `frameNumber` with its timecode text and block code; returns the packed planes (reused each call). */
  paint(frameNumber: number, timecode: string): Buffer {
    this.scene.forEach((source, index) => {
      const target = this.frame[index] as Plane;
      const scaleX = target.width / this.format.width;
      for (let row = 0; row < target.height; row++) {
        const place = row / target.height;
        const { speed, sway: reach } = bands.find(({ from, to }) => place >= from && place < to) ?? stillBand;
        const sway = Math.sin(frameNumber / 7 + row / 9 / (scaleX || 1)) * reach;
        const shift = Math.floor((frameNumber * speed + sway + reach) * scaleX) % target.width;
        const start = row * target.width;
        target.samples.set(source.samples.subarray(start + shift, start + target.width), start);
        target.samples.set(source.samples.subarray(start, start + shift), start + target.width - shift);
      }
    });
    if (this.spray > 0) this.paintSpray(frameNumber);
    this.paintKite(frameNumber);
    this.paintText(`${this.label} ${timecode}`);
    this.paintCode(frameNumber);
    return this.bytes;
  }

  private paintRectangle(
    left: number,
    top: number,
    width: number,
    height: number,
    luma: number,
    neutral = true,
  ): void {
    const [lumaPlane, ...chroma] = this.frame;
    for (let row = top; row < top + height; row++) {
      lumaPlane.samples.fill(
        luma * this.full,
        row * lumaPlane.width + left,
        row * lumaPlane.width + left + width,
      );
    }
    if (!neutral) return;
    for (const plane of chroma) {
      const { chromaShiftX, chromaShiftY } = this.format;
      for (let row = top >> chromaShiftY; row < (top + height) >> chromaShiftY; row++) {
        plane.samples.fill(
          128 * this.full,
          row * plane.width + (left >> chromaShiftX),
          row * plane.width + ((left + width) >> chromaShiftX),
        );
      }
    }
  }

  /** Adds a grain that no earlier frame predicts, so that long-GOP media has a camera's data rate. */
  private paintSpray(frameNumber: number): void {
    const { width, height } = this.format;
    const luma = this.frame[0].samples;
    const end = Math.floor(height * 0.78) * width;
    let at = (frameNumber * 7919) % sprayTileSize;
    for (let pixel = Math.floor(height * 0.56) * width; pixel < end; pixel++) {
      luma[pixel] = (luma[pixel] as number) + (this.sprayTile[at] as number);
      if (++at === sprayTileSize) at = 0;
    }
  }

  /** A kite on a slow figure of eight: the moving thing that an eye follows. */
  private paintKite(frameNumber: number): void {
    const { width, height } = this.format;
    const size = Math.floor(height / 12);
    const centreX = Math.floor(width * (0.5 + 0.34 * Math.sin(frameNumber / 31)));
    const centreY = Math.floor(height * (0.2 + 0.1 * Math.sin(frameNumber / 15.5)));
    for (let dy = -size; dy < size; dy++) {
      const half = size - Math.abs(dy);
      this.paintRectangle(centreX - half, centreY + dy, half * 2, 1, dy % 8 < 2 ? 40 : 215, false);
    }
  }

  private paintText(text: string): void {
    const dot = Math.max(2, Math.floor(this.format.height / 200));
    const left = dot * 8;
    const top = dot * 8;
    this.paintRectangle(left - dot * 2, top - dot * 2, (text.length * 6 + 3) * dot, dot * 11, 20);
    Array.from(text).forEach((character, index) => {
      for (let row = 0; row < 7; row++) {
        for (let column = 0; column < 5; column++) {
          if (glyphDot(character, column, row))
            this.paintRectangle(left + (index * 6 + column) * dot, top + row * dot, dot, dot, 225, false);
        }
      }
    });
  }

  private paintCode(frameNumber: number): void {
    const { left, top, block } = frameCodeLayout(this.format.width, this.format.height);
    const bits = encodeFrameCode(frameNumber);
    const edge = (blocks: number) => Math.round(left + blocks * block);
    const [upper, size] = [Math.round(top), Math.round(block)];
    this.paintRectangle(edge(-1), upper - size, edge(bits.length + 1) - edge(-1), size * 3, 60);
    bits.forEach((bit, index) =>
      this.paintRectangle(edge(index), upper, edge(index + 1) - edge(index), size, bit ? 235 : 16),
    );
  }
}
