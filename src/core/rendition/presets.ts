import { fileName } from '../media/fileName';
import type { Format } from '../media/format';

/** What a rendition is made with: an encoder, its settings, and the pixel formats it may use. */
export interface RenditionPreset {
  readonly id: string;
  readonly name: string;
  /** Codec family, for grouping. */
  readonly family: string;
  readonly purpose: 'proxy' | 'editing' | 'archive';
  /** The encoder as the codec library names it. */
  readonly encoder: string;
  /** Pixel formats it may use: the one nearest to the source is taken, so that depth and chroma are kept where the codec can. */
  readonly pixelFormats: readonly string[];
  readonly options: Readonly<Record<string, string>>;
  /** Frames from key to key; 1 is intra, null one second. */
  readonly keyInterval: 1 | null;
  /** Added to the file's name. */
  readonly suffix: string;
  /** It cannot hold frames of different lengths. */
  readonly needsConstantRate: boolean;
  /** Widths that the codec takes, as multiples of this. */
  readonly widthMultiple: number;
}

const preset = (
  id: string,
  family: string,
  name: string,
  purpose: RenditionPreset['purpose'],
  encoder: string,
  pixelFormats: readonly string[],
  options: Readonly<Record<string, string>>,
  change: Partial<RenditionPreset> = {},
): RenditionPreset => ({
  id,
  family,
  name,
  purpose,
  encoder,
  pixelFormats,
  options,
  keyInterval: 1,
  suffix: id.replaceAll('-', ''),
  needsConstantRate: false,
  widthMultiple: 2,
  ...change,
});

const tenBit422 = ['yuv422p10le'];
const kept = ['yuv420p', 'yuv422p', 'yuv420p10le', 'yuv422p10le'];

/** The presets by codec family. */
export const renditionPresets: readonly RenditionPreset[] = [
  preset('prores-proxy', 'ProRes', 'ProRes Proxy', 'proxy', 'prores_aw', tenBit422, { profile: '0' }),
  preset('prores-lt', 'ProRes', 'ProRes LT', 'proxy', 'prores_aw', tenBit422, { profile: '1' }),
  preset('prores-standard', 'ProRes', 'ProRes Standard', 'editing', 'prores_aw', tenBit422, { profile: '2' }),
  preset('prores-hq', 'ProRes', 'ProRes HQ', 'editing', 'prores_aw', tenBit422, { profile: '3' }),
  preset('dnxhr-lb', 'DNxHR', 'DNxHR LB', 'proxy', 'dnxhd', ['yuv422p'], { profile: 'dnxhr_lb' }),
  preset('dnxhr-sq', 'DNxHR', 'DNxHR SQ', 'editing', 'dnxhd', ['yuv422p'], { profile: 'dnxhr_sq' }),
  preset('dnxhr-hqx', 'DNxHR', 'DNxHR HQX', 'editing', 'dnxhd', tenBit422, { profile: 'dnxhr_hqx' }),
  preset('mjpeg', 'Motion JPEG', 'Motion JPEG', 'proxy', 'mjpeg', ['yuvj420p', 'yuvj422p'], {
    qmin: '4',
    qmax: '4',
  }),
  preset('h264-intra', 'H.264', 'H.264 intra', 'editing', 'libx264', kept, {
    preset: 'veryfast',
    crf: '20',
    'x264-params': 'log-level=error',
  }),
  preset(
    'h264-long',
    'H.264',
    'H.264 long-GOP',
    'proxy',
    'libx264',
    ['yuv420p'],
    { preset: 'veryfast', crf: '24', 'x264-params': 'log-level=error' },
    { keyInterval: null },
  ),
  preset(
    'hevc-long',
    'HEVC',
    'HEVC long-GOP',
    'proxy',
    'libx265',
    ['yuv420p', 'yuv420p10le', 'yuv422p10le'],
    { preset: 'ultrafast', crf: '24', 'x265-params': 'log-level=error' },
    { keyInterval: null },
  ),
  preset(
    'cineform',
    'CineForm',
    'CineForm',
    'editing',
    'cfhd',
    tenBit422,
    { quality: 'medium+' },
    { widthMultiple: 32 },
  ),
  preset(
    'mpeg2-intra',
    'MPEG-2',
    'MPEG-2 4:2:2 intra',
    'editing',
    'mpeg2video',
    ['yuv422p'],
    { qmin: '2', qmax: '5' },
    { needsConstantRate: true },
  ),
  preset(
    'ffv1',
    'FFV1',
    'FFV1 lossless',
    'archive',
    'ffv1',
    [
      'yuv420p',
      'yuv422p',
      'yuv444p',
      'yuv420p10le',
      'yuv422p10le',
      'yuv444p10le',
      'yuv444p12le',
      'yuva444p10le',
      'gbrp12le',
    ],
    { level: '3', slices: '4', slicecrc: '1' },
  ),
];

/** Part of the source's raster on each side. */
export const rasterFractions = { full: 1, half: 2, quarter: 4 } as const;
export type RasterFraction = keyof typeof rasterFractions;

export interface RenditionChoice {
  readonly presetId: string;
  readonly raster: RasterFraction;
}

/** @throws RangeError for a preset that is not known */
export function presetOf(id: string): RenditionPreset {
  const found = renditionPresets.find((known) => known.id === id);
  if (!found) throw new RangeError(`There is no preset ${id}`);
  return found;
}

/** A preset by its name; one that is not known any more by its id. */
export const presetName = (id: string): string =>
  renditionPresets.find((known) => known.id === id)?.name ?? id;

/** Raster of a rendition: whole even sides, at least 16 pixels; the width as the codec takes it. A full raster stays as it is. */
export function renditionRaster(
  { width, height }: Pick<Format, 'width' | 'height'>,
  { presetId, raster }: RenditionChoice,
): { width: number; height: number } {
  if (raster === 'full') return { width, height };
  const side = (pixels: number, multiple: number) =>
    Math.max(16, Math.round(pixels / rasterFractions[raster] / multiple) * multiple);
  return { width: side(width, presetOf(presetId).widthMultiple), height: side(height, 2) };
}

/**
 * Names a choice of settings: two renditions of one content with the same key are the same.
 * The encoder's settings are part of it, so that a changed preset makes anew.
 */
export function settingsKey({ presetId, raster }: RenditionChoice): string {
  const { encoder, pixelFormats, options, keyInterval } = presetOf(presetId);
  const sorted = Object.entries(options)
    .sort(([a], [b]) => a.localeCompare(b))
    .map(([name, value]) => `${name}=${value}`);
  return [encoder, raster, keyInterval === 1 ? 'intra' : 'long', pixelFormats.join('+'), ...sorted].join(' ');
}

/** File name of a rendition: the source's with what it is, as MOV. */
export function renditionName(sourcePath: string, choice: RenditionChoice): string {
  const name = fileName(sourcePath).replace(/\.[^.]+$/, '');
  return `${name}_${presetOf(choice.presetId).suffix}${choice.raster === 'full' ? '' : `_${choice.raster}`}.mov`;
}

/** Encoders of the codec library that refuse to code fields: frames of two are coded as a whole, and nothing in them says so. */
const wholeFrameEncoders: readonly string[] = ['dnxhd', 'mjpeg'];

/** Whether an encoder codes the fields of interlaced pictures as such. */
export const codesFields = (encoder: string): boolean => !wholeFrameEncoders.includes(encoder);
