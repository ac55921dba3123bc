import type { Rational } from '../time/rational';

/** A clip's technical identity. Its words are what a technician reads in tables. */
export interface Format {
  readonly container: string;
  /** Codec as named by its standard: "H.264", "HEVC", "ProRes". */
  readonly codec: string;
  readonly profile: string | null;
  readonly bitDepth: number;
  /** "4:2:2", "4:2:0", "4:4:4", or "RGB". */
  readonly chroma: string;
  readonly width: number;
  readonly height: number;
  readonly rate: Rational;
}

const codecLabels: Record<string, string> = {
  h264: 'H.264', hevc: 'HEVC', prores: 'ProRes', dnxhd: 'DNxHD/HR', mjpeg: 'Motion JPEG', av1: 'AV1', vp9: 'VP9',
  cfhd: 'CineForm', mpeg2video: 'MPEG-2', mpeg4: 'MPEG-4 Part 2', jpeg2000: 'JPEG 2000', ffv1: 'FFV1', v210: 'Uncompressed v210',
  rawvideo: 'Uncompressed', dvvideo: 'DV', vvc: 'VVC',
};

/** The trade's name of a codec id as the codec library spells it; the id itself when unknown. */
export function codecLabel(codecId: string): string {
  return codecLabels[codecId] ?? codecId;
}

const containerLabels: readonly (readonly [RegExp, string])[] = [
  [/mov|mp4/, 'MOV/MP4'], [/matroska|webm/, 'Matroska'], [/mxf/, 'MXF'], [/mpegts/, 'MPEG-TS'], [/avi/, 'AVI'],
];

/** The container's name for a file: by the demultiplexer's name and the file's ending. */
export function containerLabel(demuxerName: string, path: string): string {
  if (/mov|mp4/.test(demuxerName)) return /\.mp4$/i.test(path) ? 'MP4' : 'MOV';
  return containerLabels.find(([pattern]) => pattern.test(demuxerName))?.[1] ?? demuxerName;
}

const h264Profiles: Record<number, string> = { 66: 'Baseline', 77: 'Main', 88: 'Extended', 100: 'High', 110: 'High 10', 122: 'High 4:2:2', 244: 'High 4:4:4 Predictive' };
const hevcProfiles: Record<number, string> = { 1: 'Main', 2: 'Main 10', 3: 'Main Still', 4: 'Range Extensions' };
const proresProfiles: Record<number, string> = { 0: 'Proxy', 1: 'LT', 2: 'Standard', 3: 'HQ', 4: '4444', 5: '4444 XQ' };
const profilesOf: Record<string, Record<number, string>> = { h264: h264Profiles, hevc: hevcProfiles, prores: proresProfiles };

/** Name of a profile number, or null when the codec has none or it is not known. Constraint bits of H.264 are ignored. */
export function profileLabel(codecId: string, profile: number): string | null {
  if (profile < 0) return null;
  return profilesOf[codecId]?.[codecId === 'h264' ? profile & 0xff : profile] ?? null;
}

/**
 * Bit depth and chroma subsampling of a pixel format, read from its name
 * ("yuv422p10le": 10 bits, 4:2:2).
 */
export function pixelFormatFacts(name: string): { bitDepth: number; chroma: string } {
  const depth = /(?:p|gray|rgb|gbrp|gbrap|y210|v210|p0)(9|10|12|14|16)(?:le|be)?$/.exec(name)?.[1];
  const sampling = /(420|422|444|440|411|410)/.exec(name)?.[1];
  const chroma = sampling ? sampling.split('').join(':') : /^(nv12|nv21|p0)/.test(name) ? '4:2:0' : /rgb|gbr|bgr/.test(name) ? 'RGB' : /gray/.test(name) ? 'none' : 'unknown';
  return { bitDepth: depth ? Number(depth) : 8, chroma };
}

/** One line that names a format: "ProRes Standard 10-bit 4:2:2, 1920x1080". */
export function formatLabel(format: Format): string {
  const profile = format.profile ? ` ${format.profile}` : '';
  return `${format.codec}${profile} ${format.bitDepth}-bit ${format.chroma}, ${format.width}x${format.height}`;
}
