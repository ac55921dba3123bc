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

/** The sine of an angle that changes along the columns plus one that changes along the rows. */
class Wave {
  private readonly sines: Float64Array;
  private readonly cosines: Float64Array;

  /** @param angle radians at a place from 0 to 1 along the width */
  constructor(width: number, angle: (x: number) => number) {
    const places = Float64Array.from({ length: width }, (_, column) => angle(column / width));
    this.sines = places.map(Math.sin);
    this.cosines = places.map(Math.cos);
  }

  /** Writes the sine of both at every column. @param angle the row's part, radians */
  fillRow(row: Float64Array, angle: number): void {
    const { sines, cosines } = this;
    const [sine, cosine] = [Math.sin(angle), Math.cos(angle)];
    for (let column = 0; column < row.length; column++)
      row[column] = (sines[column] as number) * cosine + (cosines[column] as number) * sine;
  }
}

/**
 * The scenery that all frames of a clip are drawn from, row by row: sky, salt marsh, tide and harbour wall.
 * Every pattern has a whole number of periods across the width, so that the scene moves round without a seam.
 */
class Scenery {
  private readonly cloudEdge: Wave;
  private readonly cloudBody: Wave;
  private readonly grass: Wave;
  private readonly grassHue: Wave;
  private readonly waves: Wave;
  private readonly edges: Float64Array;
  /** The row that was drawn last. */
  readonly values: Float64Array;
  /** How strongly the grain shows in it, 0 to 1.4. */
  readonly grains: Float64Array;

  constructor(private readonly width: number) {
    this.cloudEdge = new Wave(width, (x) => x * turn * 3);
    this.cloudBody = new Wave(width, (x) => x * turn);
    this.grass = new Wave(width, (x) => x * turn * 67);
    this.grassHue = new Wave(width, (x) => x * turn * 2);
    this.waves = new Wave(width, (x) => Math.sin(x * turn * 5) * 2.4);
    this.edges = new Float64Array(width);
    this.values = new Float64Array(width);
    this.grains = new Float64Array(width);
  }

  /** Draws `base` with as much of the pattern in `values` as `strength` says. */
  private scale(base: number, strength: number): void {
    const { values } = this;
    for (let column = 0; column < values.length; column++)
      values[column] = base + (values[column] as number) * strength;
  }

  /** Draws the clouds' thickness, 0 to 1. */
  private clouds(y: number): void {
    const { values, edges } = this;
    this.cloudEdge.fillRow(edges, Math.sin(y * 40) * 2);
    this.cloudBody.fillRow(values, y * 17);
    for (let column = 0; column < values.length; column++) {
      const thickness = (edges[column] as number) * (values[column] as number);
      values[column] = thickness > 0 ? thickness : 0;
    }
  }

  private wall(y: number): void {
    const height = (y - 0.78) * coursesPerHeight;
    const course = Math.floor(height);
    for (let column = 0; column < this.width; column++) {
      const along = (column / this.width) * stonesPerWidth + (course % 2) * 0.5;
      const mortar = along % 1 < 0.05 || height % 1 < 0.12;
      this.values[column] = mortar
        ? 38
        : 96 + (((Math.floor(along) % stonesPerWidth) * 37 + course * 59) % 46);
      this.grains[column] = mortar ? 0 : 1.4;
    }
  }

  /** Draws luma (0 to 255) and grain of the row at `y` (0 to 1). */
  drawLuma(y: number): void {
    this.grains.fill(y < 0.38 ? 0.35 : 1);
    if (y < 0.38) {
      this.clouds(y);
      this.scale(150 + y * 90, 45);
    } else if (y < 0.52) {
      this.grass.fillRow(this.values, Math.sin(y * 90) * 3);
      this.scale(92, 22);
    } else if (y < 0.78) {
      this.waves.fillRow(this.values, y * 240);
      this.scale(84, 48 * (y - 0.4));
    } else this.wall(y);
  }

  /** Draws the blue-difference values (0 to 255) of the row at `y` (0 to 1). */
  drawBlueness(y: number): void {
    if (y < 0.38) {
      this.clouds(y);
      this.scale(140, -10);
    } else this.values.fill(y < 0.52 ? 112 : y < 0.78 ? 142 : 124);
  }

  /** Draws the red-difference values (0 to 255) of the row at `y` (0 to 1). */
  drawRedness(y: number): void {
    if (y >= 0.38 && y < 0.52) {
      this.grassHue.fillRow(this.values, 0);
      this.scale(126, 6);
    } else this.values.fill(y < 0.38 ? 120 + y * 14 : y < 0.78 ? 116 : 132);
  }
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
    const scenery = new Scenery(luma.width);
    this.fillPlane(luma, scenery, (y) => {
      scenery.drawLuma(y);
      const { values, grains } = scenery;
      for (let column = 0; column < values.length; column++)
        values[column] = (values[column] as number) + (random() - 0.5) * texture * (grains[column] as number);
    });
    const chroma = new Scenery(blue.width);
    this.fillPlane(blue, chroma, (y) => chroma.drawBlueness(y));
    this.fillPlane(red, chroma, (y) => chroma.drawRedness(y));
  }

  /** @param draw draws the scenery's row at a place from 0 to 1 */
  private fillPlane({ samples, width, height }: Plane, { values }: Scenery, draw: (y: number) => void): void {
    for (let row = 0; row < height; row++) {
      draw(row / height);
      for (let column = 0; column < width; column++) {
        const value = values[column] as number;
        values[column] = (value < 16 ? 16 : value > 235 ? 235 : value) * this.full;
      }
      samples.set(values, row * width);
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
