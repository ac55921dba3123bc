import { fixed, quantity, upTo } from '../format';
import type { Rational } from '../time/rational';
import { rateLabel } from '../time/rational';
import type { Format } from './format';
import type { Timing } from './timing';

/** How the lines of a picture were taken. */
export type Scan = 'progressive' | 'top field first' | 'bottom field first';

export interface AudioTrack {
  readonly codec: string;
  readonly channels: number;
  /** "stereo", "5.1": as the file names its channels; null when it does not. */
  readonly layout: string | null;
  readonly samplesPerSecond: number;
  /** Bits of a sample where the codec stores samples; null for codecs that model them. */
  readonly bitDepth: number | null;
}

/** Colour as the file tags it, by the code points of ITU-T H.273; null where it says nothing. */
export interface ColourTags {
  readonly primaries: string | null;
  readonly transfer: string | null;
  readonly matrix: string | null;
  readonly range: 'full' | 'limited' | null;
}

/** Said of a stream whose codec has no decoder here. */
export const noDecoder = 'There is no decoder for it here.';

/** What a clip is besides its format: all that changes how it must be handled. */
export interface ClipIdentity {
  /** As the registry of codecs for media types writes it (RFC 6381); null where it has no form. */
  readonly codecString: string | null;
  /** The pixel format's name in the codec library. */
  readonly pixelFormat: string;
  readonly level: string | null;
  readonly pixelAspect: Rational;
  /** Null when no frame could be decoded to see. */
  readonly scan: Scan | null;
  readonly timing: Timing;
  readonly dropFrame: boolean;
  readonly colour: ColourTags;
  /** Degrees clockwise by which a player turns the picture: 0, 90, 180, 270. */
  readonly rotation: number;
  readonly alpha: boolean;
  readonly audio: readonly AudioTrack[];
  /** The container's index lies behind the media; null for containers that have none. */
  readonly indexAtEnd: boolean | null;
  /** What the edit list does beyond starting at the first frame, in words; null when nothing. */
  readonly edits: string | null;
  /** Frames that the container promises beyond those that are there. */
  readonly missingFrames: number;
  /** Frames of a sequence that are not there between those that are, for which the one before stands; absent where none is missing. */
  readonly gaps?: { readonly frames: number; readonly words: string } | undefined;
  /** Its files state no rate: it is assumed, and may be set. */
  readonly rateAssumed?: boolean | undefined;
  /** Its files state no rate: somebody chose it. */
  readonly rateChosen?: boolean | undefined;
  /** It is a part of a take that a camera split: the take's path, and which part of how many. */
  readonly partOf?: { readonly path: string; readonly part: number; readonly parts: number } | undefined;
  /** It may go on in this file: it is as large as a part gets, and nothing says for sure. */
  readonly mayGoOnIn?: string | undefined;
  /** Why the first frame did not decode; null when it did. */
  readonly decodeProblem: string | null;
}

const primariesNames: Record<number, string> = {
  1: 'BT.709',
  4: 'BT.470 M',
  5: 'BT.601 625',
  6: 'BT.601 525',
  7: 'SMPTE 240M',
  8: 'Generic film',
  9: 'BT.2020',
  10: 'CIE XYZ',
  11: 'DCI P3',
  12: 'Display P3',
  22: 'EBU 3213',
};
const transferNames: Record<number, string> = {
  1: 'BT.709',
  4: 'Gamma 2.2',
  5: 'Gamma 2.8',
  6: 'BT.601',
  7: 'SMPTE 240M',
  8: 'Linear',
  9: 'Log 100:1',
  10: 'Log 316:1',
  11: 'xvYCC',
  13: 'sRGB',
  14: 'BT.2020 10-bit',
  15: 'BT.2020 12-bit',
  16: 'PQ (ST 2084)',
  17: 'ST 428',
  18: 'HLG (ARIB B67)',
};
const matrixNames: Record<number, string> = {
  0: 'RGB',
  1: 'BT.709',
  4: 'FCC',
  5: 'BT.601 625',
  6: 'BT.601 525',
  7: 'SMPTE 240M',
  8: 'YCgCo',
  9: 'BT.2020',
  10: 'BT.2020 constant',
  14: 'ICtCp',
};

/** Colour tags from the code points of ITU-T H.273. Values that are unspecified or unknown become null. @param range 1 limited, 2 full, as the codec library counts */
export function colourTags(primaries: number, transfer: number, matrix: number, range: number): ColourTags {
  return {
    primaries: primariesNames[primaries] ?? null,
    transfer: transferNames[transfer] ?? null,
    matrix: matrixNames[matrix] ?? null,
    range: range === 1 ? 'limited' : range === 2 ? 'full' : null,
  };
}

/** Level of H.264 ("4.1") and HEVC ("5.1"); null for codecs without. Source: ITU-T H.264 A.3, H.265 A.4 (30 times the level). */
export function levelLabel(codecId: string, level: number): string | null {
  if (level <= 0) return null;
  if (codecId === 'h264') return level === 9 ? '1b' : fixed(level / 10, 1);
  if (codecId === 'hevc') return fixed(level / 30, 1);
  if (codecId === 'mpeg2video')
    return ({ 4: 'High', 6: 'High 1440', 8: 'Main', 10: 'Low' } as Record<number, string>)[level] ?? null;
  return null;
}

/**
 * Degrees clockwise that a display matrix turns a picture by, in quarters.
 * @param matrix nine 16.16 fixed-point numbers, little-endian, as the codec library hands them on. Source: ISO/IEC 14496-12, 6.2.2
 */
export function rotationOf(matrix: Uint8Array | null): number {
  if (!matrix || matrix.byteLength < 36) return 0;
  const view = new DataView(matrix.buffer, matrix.byteOffset, matrix.byteLength);
  const at = (index: number) => view.getInt32(index * 4, true) / 65_536;
  const degrees = (Math.atan2(at(1), at(0)) * 180) / Math.PI;
  return (((Math.round(degrees / 90) * 90) % 360) + 360) % 360;
}

/** "29.97 (30000/1001), constant" */
export function timingLabel(rate: Rational, { constant, shortestMs, longestMs }: Timing): string {
  return constant
    ? `${rateLabel(rate)}, constant`
    : `${rateLabel(rate)} on average, variable: frames of ${fixed(shortestMs, 1)} to ${quantity(longestMs, 'ms', 1)}`;
}

/** "1920x1080", or with the shape of its pixels and the raster it is shown at: "720x576, pixels 16:15, shown 768x576". */
export function rasterLabel(
  { width, height }: Format,
  { pixelAspect, rotation }: Pick<ClipIdentity, 'pixelAspect' | 'rotation'>,
): string {
  const { num, den } = pixelAspect;
  const square = num === den || num <= 0;
  const turned = rotation === 0 ? '' : `, turned ${rotation}° when shown`;
  return `${width}x${height}${square ? '' : `, pixels ${num}:${den}, shown ${Math.round((width * num) / den)}x${height}`}${turned}`;
}

/** "stereo PCM 24-bit, 48 kHz" */
export function audioLabel({ codec, channels, layout, samplesPerSecond, bitDepth }: AudioTrack): string {
  const named = layout ?? (channels === 1 ? 'mono' : `${channels} channels`);
  return `${named} ${codec}${bitDepth ? ` ${bitDepth}-bit` : ''}, ${quantity(upTo(samplesPerSecond / 1000, 1), 'kHz')}`;
}
