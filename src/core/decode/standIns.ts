import type { Format } from '../media/format';
import { plainName } from '../simulated';
import { kindOfDevice } from './device';

/** A made-up accelerator: what it decodes and how fast. */
export interface StandInDevice {
  readonly id: string;
  readonly name: string;
  readonly about: string;
  /** What it takes; anything else it hands to software without a word. */
  readonly supports: readonly SupportRow[];
  /** Time from the first packet to the first frame, µs. */
  readonly startUs: number;
  /** Part of every frame's time that does not depend on its size, µs. */
  readonly perFrameUs: number;
  /** Bringing a picture to memory: part of the time that does not depend on its size, µs, and the rate. One picture comes at a time. */
  readonly readBackUs: number;
  readonly readBackMegabytesPerSecond: number;
  /** Rate of the unit that scales pictures, in pixels of the larger one. */
  readonly scaleMegapixelsPerSecond: number;
}

/** One line of a support table. */
export interface SupportRow {
  readonly codec: string;
  /** Names of profiles it takes; null for all. */
  readonly profiles: readonly string[] | null;
  readonly bitDepths: readonly number[];
  readonly chromas: readonly string[];
  readonly maxWidth: number;
  readonly maxHeight: number;
  /** Rate of the decode engine for this codec. */
  readonly megapixelsPerSecond: number;
}

const row = (
  codec: string,
  bitDepths: readonly number[],
  chromas: readonly string[],
  maxWidth: number,
  maxHeight: number,
  megapixelsPerSecond: number,
  profiles: readonly string[] | null = null,
): SupportRow => ({ codec, profiles, bitDepths, chromas, maxWidth, maxHeight, megapixelsPerSecond });

/** The stand-in accelerators: an older and a newer one. Both are made up. */
export const standInDevices: readonly StandInDevice[] = [
  {
    id: 'stand-in-neap',
    name: 'Neap',
    about: 'Older made-up accelerator: 8-bit 4:2:0 only, up to 4096x2304. Encodes H.264.',
    startUs: 28_000,
    perFrameUs: 900,
    readBackUs: 250,
    readBackMegabytesPerSecond: 1_600,
    scaleMegapixelsPerSecond: 1_100,
    supports: [
      row('H.264', [8], ['4:2:0'], 4096, 2304, 420),
      row('HEVC', [8], ['4:2:0'], 4096, 2304, 380),
      row('MPEG-2', [8], ['4:2:0'], 1920, 1152, 260),
      row('VP9', [8], ['4:2:0'], 4096, 2304, 340),
    ],
  },
  {
    id: 'stand-in-spring',
    name: 'Spring',
    about: 'Newer made-up accelerator: 10-bit and 4:2:2 too, up to 8192x4320. Encodes H.264, HEVC and AV1.',
    startUs: 16_000,
    perFrameUs: 350,
    readBackUs: 120,
    readBackMegabytesPerSecond: 6_000,
    scaleMegapixelsPerSecond: 4_500,
    supports: [
      row('H.264', [8, 10], ['4:2:0', '4:2:2'], 8192, 4320, 1_500),
      row('HEVC', [8, 10, 12], ['4:2:0', '4:2:2', '4:4:4'], 8192, 4320, 1_900),
      row('VP9', [8, 10], ['4:2:0'], 8192, 4320, 1_500),
      row('AV1', [8, 10], ['4:2:0'], 8192, 4320, 1_700),
      row('ProRes', [10, 12], ['4:2:2', '4:4:4'], 8192, 4320, 1_300),
    ],
  },
];

/** The line of a device's support table that takes a format, or null: then it falls back to software, unannounced. */
export function supportFor(device: StandInDevice, format: Format): SupportRow | null {
  return (
    device.supports.find(
      (line) =>
        line.codec === format.codec &&
        (line.profiles === null || (format.profile !== null && line.profiles.includes(format.profile))) &&
        line.bitDepths.includes(format.bitDepth) &&
        line.chromas.includes(format.chroma) &&
        format.width <= line.maxWidth &&
        format.height <= line.maxHeight,
    ) ?? null
  );
}

/** Time that a device takes for a frame of a format, µs. */
export function frameTimeUs(
  device: StandInDevice,
  line: SupportRow,
  { width, height }: Pick<Format, 'width' | 'height'>,
): number {
  return device.perFrameUs + (width * height) / line.megapixelsPerSecond;
}

/** Time in which a device brings a picture to memory, µs. */
export function readBackTimeUs(
  { readBackUs, readBackMegabytesPerSecond }: StandInDevice,
  bytes: number,
): number {
  return readBackUs + bytes / readBackMegabytesPerSecond;
}

/** Time in which a device scales a picture to a smaller one, µs. */
export function scaleTimeUs(
  { scaleMegapixelsPerSecond }: StandInDevice,
  { width, height }: Pick<Format, 'width' | 'height'>,
): number {
  return (width * height) / scaleMegapixelsPerSecond;
}

/** A device's name, which says so where it is made up: "Neap (simulated)". @param id null: none, the processor does it */
export function deviceName(id: string | null): string {
  if (id === null) return 'software';
  const standIn = standInDevices.find((device) => device.id === id);
  return standIn ? plainName(standIn.name, true) : kindOfDevice(id);
}
