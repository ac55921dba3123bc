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
  h264: 'H.264',
  hevc: 'HEVC',
  prores: 'ProRes',
  dnxhd: 'DNxHD/HR',
  mjpeg: 'Motion JPEG',
  av1: 'AV1',
  vp9: 'VP9',
  cfhd: 'CineForm',
  mpeg2video: 'MPEG-2',
  mpeg4: 'MPEG-4 Part 2',
  jpeg2000: 'JPEG 2000',
  ffv1: 'FFV1',
  v210: 'Uncompressed v210',
  rawvideo: 'Uncompressed',
  dvvideo: 'DV',
  vvc: 'VVC',
  prores_raw: 'ProRes RAW',
  apv: 'APV',
  jpegxs: 'JPEG XS',
  vc1: 'VC-1',
  theora: 'Theora',
  vp8: 'VP8',
  huffyuv: 'HuffYUV',
  utvideo: 'Ut Video',
  r210: 'Uncompressed r210',
  v410: 'Uncompressed v410',
  mpeg1video: 'MPEG-1',
  png: 'PNG',
  exr: 'OpenEXR',
  dpx: 'DPX',
  tiff: 'TIFF',
  aac: 'AAC',
  mp2: 'MPEG Layer 2',
  mp3: 'MPEG Layer 3',
  flac: 'FLAC',
  opus: 'Opus',
  ac3: 'AC-3',
};

/** The trade's name of a codec id as the codec library spells it; the id itself when unknown. */
export function codecLabel(codecId: string): string {
  return codecLabels[codecId] ?? (/^pcm_/.test(codecId) ? 'PCM' : codecId);
}

const containerLabels: readonly (readonly [RegExp, string])[] = [
  [/mov|mp4/, 'MOV/MP4'],
  [/matroska|webm/, 'Matroska'],
  [/mxf/, 'MXF'],
  [/mpegts/, 'MPEG-TS'],
  [/^mpeg$|^vob/, 'MPEG-PS'],
  [/avi/, 'AVI'],
  [/^dv$/, 'DV'],
];

/** The container's name for a file: by the demultiplexer's name and the file's ending. */
export function containerLabel(demuxerName: string, path: string): string {
  if (/mov|mp4/.test(demuxerName)) return /\.(mp4|m4v)$/i.test(path) ? 'MP4' : 'MOV';
  return containerLabels.find(([pattern]) => pattern.test(demuxerName))?.[1] ?? demuxerName;
}

const h264Profiles: Record<number, string> = {
  66: 'Baseline',
  77: 'Main',
  88: 'Extended',
  100: 'High',
  110: 'High 10',
  122: 'High 4:2:2',
  244: 'High 4:4:4 Predictive',
};
const hevcProfiles: Record<number, string> = {
  1: 'Main',
  2: 'Main 10',
  3: 'Main Still',
  4: 'Range Extensions',
};
const proresProfiles: Record<number, string> = {
  0: 'Proxy',
  1: 'LT',
  2: 'Standard',
  3: 'HQ',
  4: '4444',
  5: '4444 XQ',
};
const mpeg2Profiles: Record<number, string> = { 0: '4:2:2', 1: 'High', 4: 'Main', 5: 'Simple' };
const profilesOf: Record<string, Record<number, string>> = {
  h264: h264Profiles,
  hevc: hevcProfiles,
  prores: proresProfiles,
  mpeg2video: mpeg2Profiles,
};

/** Name of a profile number, or null when the codec has none or it is not known. Constraint bits of H.264 are ignored. */
export function profileLabel(codecId: string, profile: number): string | null {
  if (profile < 0) return null;
  return profilesOf[codecId]?.[codecId === 'h264' ? profile & 0xff : profile] ?? null;
}

/** What the names of pixel formats tell that name no subsampling. */
const samplings: readonly (readonly [RegExp, string])[] = [
  [/^(nv12|nv21|p0)/, '4:2:0'],
  [/^bayer/, 'Bayer'],
  [/^(rgb|gbr|bgr).*f(16|32)(le|be)?$/, 'RGB float'],
  [/rgb|gbr|bgr/, 'RGB'],
  [/^xyz/, 'XYZ'],
  [/gray/, 'none'],
];

/** Bits a channel of pixel formats that are named by the bits of a pixel. */
const packedDepths: Readonly<Record<string, string>> = {
  nv15: '10',
  nv20: '10',
  xv30: '10',
  v30x: '10',
  xv36: '12',
  xv48: '16',
  rgb48: '16',
  bgr48: '16',
  rgba64: '16',
  bgra64: '16',
  ayuv64: '16',
  rgb96: '32',
  rgba128: '32',
};

/**
 * Bit depth and chroma subsampling of a pixel format, read from its name
 * ("yuv422p10le": 10 bits, 4:2:2).
 */
export function pixelFormatFacts(name: string): { bitDepth: number; chroma: string } {
  const depth =
    /(?:p[024]?|gray|x?2?(?:rgb|bgr)|rgba|bgra|ya|xyz|y2)f?(9|10|12|14|16|32)(?:msb)?(?:le|be)?$/.exec(
      name,
    )?.[1] ??
    packedDepths[name.replace(/(le|be)$/, '')] ??
    // Those of a sensor name their depth behind its pattern.
    /^bayer_[rgb]{4}(16)/.exec(name)?.[1];
  const sampling = /(420|422|444|440|411|410)/.exec(name)?.[1];
  const chroma = sampling
    ? sampling.split('').join(':')
    : (samplings.find(([pattern]) => pattern.test(name))?.[1] ?? 'unknown');
  return { bitDepth: depth ? Number(depth) : 8, chroma };
}

/** Whether a pixel format carries transparency. */
export function hasAlpha(pixelFormat: string): boolean {
  return /^(yuva|rgba|bgra|argb|abgr|gbrap|ya\d|ayuv|pal8)/.test(pixelFormat);
}

/** Raster classes by the number of pixels, as the trade calls them. */
const rasterClasses: readonly (readonly [number, string])[] = [
  [640 * 400, 'below SD'],
  [1024 * 576, 'SD'],
  [1440 * 810, '720'],
  [2048 * 1152, 'HD 1080'],
  [3200 * 1800, '2.7K'],
  [4100 * 2304, 'UHD'],
  [6200 * 3500, '6K'],
];

/** The class of raster that decode support is told by: "HD 1080", "UHD". */
export function rasterClass({ width, height }: Pick<Format, 'width' | 'height'>): string {
  return rasterClasses.find(([most]) => width * height <= most)?.[1] ?? '8K';
}

/** What decode support depends on: codec, depth, chroma and class of raster. "HEVC 10-bit 4:2:0, UHD" */
export function formatClass(format: Format): string {
  return `${format.codec} ${format.bitDepth}-bit ${format.chroma}, ${rasterClass(format)}`;
}

/** One line that names a format: "ProRes Standard 10-bit 4:2:2, 1920x1080". */
export function formatLabel(format: Format): string {
  const profile = format.profile ? ` ${format.profile}` : '';
  return `${format.codec}${profile} ${format.bitDepth}-bit ${format.chroma}, ${format.width}x${format.height}`;
}
